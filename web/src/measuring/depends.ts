/**
 * What depends on what: for everything that the measuring worker makes once and keeps, a key of just those parts of a request that it
 * is made of. What reads more than its key says would be kept too long, what reads less would be made twice.
 */
import type { PathDocument } from "../generated/types/PathDocument";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { Request } from "./messages";
import { isShared, sendTo } from "./sent";
import { originOf, soundName, soundsOfPaths, type SoundWanted, throughOf, withStemsBefore } from "./sounds";

const keyOf = (...parts: unknown[]) => JSON.stringify(parts);

/** Nothing is wanted: the value is that there is none. */
const NONE = "none";

/** The source that is shown as a whole: that of the stem at work, and of what is sent that of the first who sends. */
export function shownSource({ stems, work }: Request): SourceDocument | undefined {
  const at = stems[work];
  if (!at || !isShared(at)) return at?.source;
  return (stems.find((stem) => sendTo(stem, work)) ?? stems.find((stem) => !isShared(stem)))?.source;
}

/** Whether the stem at work plays what the others send to it. */
export function isSentAtWork({ stems, work }: Request): boolean {
  const at = stems[work];
  return at !== undefined && isShared(at);
}

export const overviewKey = (request: Request) => keyOf(request.opening, shownSource(request), request.columns);

export function passageKey(request: Request): string {
  const { opening, stems, work, region, play } = request;
  const sent = isSentAtWork(request) && [play, work, stems.map((stem) => (isShared(stem) ? "shared" : stem))];
  return keyOf(opening, shownSource(request), region, sent);
}

/** The keys of the sounds that have been laid, by their names. */
export type Laid = ReadonlyMap<string, string>;

/** A sound beside the passage; what the path that it runs through takes has been laid before. */
export function soundKey({ sound }: SoundWanted, { stems, play }: Request, laid: Laid): string {
  const through = throughOf(sound, stems);
  const taken = through && [play, through, laidFor([withStemsBefore(through)], stems, laid)];
  return keyOf(originOf(sound, stems), taken);
}

/** What the sounds of some paths are made of, as far as they have been laid. */
const laidFor = (paths: PathDocument[], stems: Request["stems"], laid: Laid) =>
  soundsOfPaths(paths, stems).map((sound) => laid.get(soundName(sound)) ?? null);

/** All that plays beside the stem at work, and what of it goes to the paths that it sends to; its own source is in it, since what plays
 * together is as long as the longest. */
export function backingKey(request: Request, passage: string, laid: Laid): string {
  const { stems, work, region, play, sendsAs, allStems } = request;
  const at = stems[work];
  const others = stems.filter((_, i) => i !== work);
  const mine = [at?.source, at?.strip.solo, at?.sends.map(({ to }) => to)];
  return allStems
    ? keyOf(
        passage,
        others,
        mine,
        work,
        region,
        play,
        sendsAs,
        laidFor(
          others.map(({ path }) => path),
          stems,
          laid,
        ),
      )
    : NONE;
}

/** The sum through shared paths against that through inserts. */
export function comparedKey(
  { stems, work, region, play, sendsAs, allStems, comparing }: Request,
  passage: string,
  laid: Laid,
): string {
  return allStems && comparing
    ? keyOf(
        passage,
        stems,
        work,
        region,
        play,
        sendsAs,
        laidFor(
          stems.map(({ path }) => path),
          stems,
          laid,
        ),
      )
    : NONE;
}

/** The reference, which is as loud as the passage. */
export const referenceKey = ({ reference, columns }: Request, passage: string) => keyOf(passage, reference, columns);

/** Its spectrum, which only one picture shows. */
export function referenceSpectrumKey(request: Request, passage: string): string {
  return request.reference && request.picture === "curve" ? keyOf(referenceKey(request, passage), request.how) : NONE;
}

/** The level match of a path. */
export function matchesKey(path: PathDocument, { stems, play }: Request, passage: string, laid: Laid): string {
  return keyOf(passage, play, path, laidFor([path], stems, laid));
}

/** What is wanted of something that can be switched off. */
export const isWanted = (key: string) => key !== NONE;

/** What is kept, each under the key of what it was made of. */
export class Kept {
  private readonly keys = new Map<string, string>();

  /** Makes something anew if it was made of something else; what fails half-way is not kept. */
  async make(name: string, key: string, make: () => Promise<void> | void): Promise<void> {
    if (this.keys.get(name) === key) return;
    this.keys.delete(name);
    await make();
    this.keys.set(name, key);
  }
}
