/** What a report says of the match that is heard. */
import type { MatchBy } from "../generated/types/MatchBy";
import type { Report } from "../generated/types/Report";
import type { Sentence } from "../generated/types/Sentence";

export function saidOf({ sentences, match_sentences }: Report, by: MatchBy): Sentence[] {
  return sentences.map((sentence, i) => (match_sentences && i === match_sentences.at ? match_sentences[by] : sentence));
}

/** Whether after is brought to the level of before: it is wanted, and no part is heard alone. */
export function isMatched(report: Report | null, by: MatchBy): boolean {
  return by !== "off" && report?.level_matches[by].by !== "part";
}
