/** Shared paths and what is sent to them, as pure changes to a bench. A shared path is a stem that plays what the others send to it. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Effect } from "../generated/types/Effect";
import type { Send } from "../generated/types/Send";
import type { Stem } from "../generated/types/Stem";
import { effectNamed } from "../core/core";
import { MOST_SHARED } from "../generated/live";
import { isShared, SENT, sendTo, sharedPlaces } from "../measuring/sent";
import { withStageAdded, withStem, withStemAdded, withValue, withStage } from "./edits";

/** The level at which a stem begins to send, dB: to be heard, and not too much. */
const USUAL_SEND_DB = -10;

/** What a shared path is called: its number among them, and what it does. */
export function sharedName(stems: Stem[], place: number): string {
  const { snapshots, snapshot } = stems[place] as Stem;
  const effects = snapshots[snapshot]?.stages.map(({ effect }) => effectNamed(effect).label) ?? [];
  const does = effects.length === 0 ? "empty" : effects.join(", ");
  return `Shared ${sharedPlaces(stems).indexOf(place) + 1}: ${does}`;
}

/** Whether there is room for another shared path. */
export const hasRoomToShare = ({ stems }: BenchDocument) => sharedPlaces(stems).length < MOST_SHARED;

/** What a stem sends to a shared path, changed; begun where it sends nothing yet. */
export function withSend(bench: BenchDocument, index: number, to: number, change: Partial<Send>): BenchDocument {
  return withStem(bench, index, (stem) => {
    const send = { to, level_db: USUAL_SEND_DB, before_strip: false, ...sendTo(stem, to), ...change };
    const others = stem.sends?.filter((other) => other.to !== to) ?? [];
    return { ...stem, sends: [...others, send].sort((a, b) => a.to - b.to) };
  });
}

export function withoutSend(bench: BenchDocument, index: number, to: number): BenchDocument {
  return withStem(bench, index, (stem) => ({ ...stem, sends: stem.sends?.filter((send) => send.to !== to) ?? [] }));
}

/** A new shared path with one stage, all wet, to which the stem at work sends; the path is worked on then. */
export function withSharedAdded(bench: BenchDocument, effect: Effect): BenchDocument {
  const to = bench.stems.length;
  const sender = bench.stems[bench.work];
  const added = withStageAdded({ ...withStemAdded(bench, { kind: SENT }), work: to }, effect);
  const wet = withStage(added, 0, (stage) => withValue(stage, effect.mix, 1));
  return sender && !isShared(sender) ? withSend(wet, bench.work, to, {}) : wet;
}
