/** A resonance that is listened to: the range around it alone, through a band that is not part of the bench. */
import { create } from "zustand";

import { effectOf, holdOf, paramNamed } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Resonance } from "../generated/types/Resonance";
import type { StageDocument } from "../generated/types/StageDocument";
import { type Band, bandParam, bandsOf, freeBand, hasBands, isUsual, withBand } from "./bands";
import { pathOf, withValue } from "./edits";

/** A band so near to a resonance, as a ratio, is the one that deals with it. */
const NEAR = 1.03;
/** The place of the choice of what is heard at which it is the range of one band. */
const ONLY = 1;

interface Overheard {
  /** Which, and through which stage; none: what the bench plays is heard. */
  what: { stage: number; resonance: Resonance } | null;
  listen(stage: number, resonance: Resonance): void;
  stop(): void;
}

export const useOverheard = create<Overheard>()((set) => ({
  what: null,
  listen: (stage, resonance) => set({ what: { stage, resonance } }),
  stop: () => set({ what: null }),
}));

/** The band that deals with a resonance, if there is one. */
export function bandAt(stage: StageDocument, { freq_hz }: Resonance): Band | undefined {
  return bandsOf(stage).find(
    (band) => isUsual(effectOf(stage), band) && Math.max(band.freqHz / freq_hz, freq_hz / band.freqHz) < NEAR,
  );
}

/** A stage with a bell at a resonance that is as narrow as it. */
export function withBell(of: StageDocument, resonance: Resonance, number: number, gainDb: number): StageDocument {
  const effect = effectOf(of);
  const belled = bandAt(of, resonance) ? of : withBand(of, number, Math.round(resonance.freq_hz * 10) / 10, 0);
  const narrow = withValue(belled, bandParam(effect, number, "q"), Math.round(resonance.q * 10) / 10);
  return withValue(narrow, bandParam(effect, number, "gain"), gainDb);
}

/** The path that lets a resonance be heard alone; none where nothing is listened to, or the stage is not there any more. */
export function overheardPath(document: BenchDocument): PathDocument | null {
  const { what } = useOverheard.getState();
  const path = pathOf(document);
  const stage = what && path.stages[what.stage];
  if (!stage || !hasBands(effectOf(stage))) return null;
  const effect = effectOf(stage);
  const hold = holdOf(effect, "hear");
  const [hear, band] = [hold && paramNamed(effect, hold.param), hold?.band ? paramNamed(effect, hold.band) : undefined];
  // Where all bands are taken, the first one makes room.
  const number = bandAt(stage, what.resonance)?.number ?? freeBand(stage) ?? 1;
  if (!hear || !band) return null;
  const heard = withValue(withValue(withBell(stage, what.resonance, number, 0), hear, ONLY), band, number);
  return { ...path, stages: path.stages.map((other, i) => (i === what.stage ? heard : other)) };
}
