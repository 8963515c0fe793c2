/** What is being explained in order, and its own settings, as pure functions: wherever one works meanwhile, it finds its place again. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { StageDocument } from "../generated/types/StageDocument";
import { withSnapshot, withStage, withStem, withWork, workOf } from "./edits";

export interface Guided {
  /** The place in the order of the effect. */
  place: number;
  /** Where the stage stands: its stem, snapshot and place in the path. */
  stem: number;
  snapshot: number;
  stage: number;
  /** The stage with its own settings. */
  before: StageDocument;
}

/** Whether this is the stage that is being explained. */
export function isGuided(guided: Guided, bench: BenchDocument, stage: number): boolean {
  return guided.stem === bench.work && guided.snapshot === workOf(bench).snapshot && guided.stage === stage;
}

/** The document with the explained stage, where it stands, as `change` makes it; one that is not there any more is left alone. */
export function withGuided(
  bench: BenchDocument,
  guided: Guided,
  change: (stage: StageDocument) => StageDocument,
): BenchDocument {
  const { stem, snapshot, stage, before } = guided;
  return withStem(bench, stem, (of) => ({
    ...of,
    snapshots: of.snapshots.map((path, i) =>
      i === snapshot
        ? { ...path, stages: path.stages.map((s, j) => (j === stage && s.effect === before.effect ? change(s) : s)) }
        : path,
    ),
  }));
}

/** The document with the own settings of what is being explained. */
export function givenBack(bench: BenchDocument, guided: Guided | null): BenchDocument {
  return guided ? withGuided(bench, guided, () => guided.before) : bench;
}

/** The document with the explained stage, as `change` makes it, worked on. */
export function atGuided(
  bench: BenchDocument,
  guided: Guided,
  change: (stage: StageDocument) => StageDocument,
): BenchDocument {
  const there = bench.work === guided.stem ? bench : withWork(bench, guided.stem);
  return withStage(withSnapshot(there, guided.snapshot), guided.stage, change);
}

/** Whether everything is still where it was, so that the stage is found by its places. */
export function standsIn({ stem, snapshot }: Guided, then: BenchDocument, now: BenchDocument): boolean {
  const shape = ({ stems }: BenchDocument) => {
    const snapshots = stems[stem]?.snapshots ?? [];
    return JSON.stringify([stems.length, snapshots.length, snapshots[snapshot]?.stages.map((s) => s.effect)]);
  };
  return then.stems === now.stems || shape(then) === shape(now);
}
