/** What can be looked at beside the picture of the stage at work, on the very same passage: another stage, snapshot or stem. */
import { effectNamed } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { PathDocument } from "../generated/types/PathDocument";
import type { BesidePath } from "../measuring/messages";
import { pathOf, picturedStage, workOf } from "./edits";

export interface Beside {
  kind: "stage" | "snapshot" | "stem";
  index: number;
}

export interface BesideChoice extends BesidePath {
  of: Beside;
  label: string;
}

/** All that there is: the stages of this path alone, other snapshots, and the paths of other stems. */
export function besideChoices(document: BenchDocument): BesideChoice[] {
  const path = pathOf(document);
  const pictured = picturedStage(document.view);
  const { snapshots, snapshot } = workOf(document);
  const effect = path.stages[pictured]?.effect;
  /** The stage of another path with the same effect, or else its first. */
  const alike = ({ stages }: PathDocument) =>
    Math.max(0, stages[pictured]?.effect === effect ? pictured : stages.findIndex((stage) => stage.effect === effect));
  const stages = path.stages.flatMap((stage, index): BesideChoice[] =>
    index === pictured
      ? []
      : [
          {
            of: { kind: "stage", index },
            label: `${index + 1} ${effectNamed(stage.effect).label}, alone`,
            path: { ...path, stages: [stage] },
            pictured: 0,
          },
        ],
  );
  const others = snapshots.flatMap((other, index): BesideChoice[] =>
    index === snapshot || other.stages.length === 0
      ? []
      : [{ of: { kind: "snapshot", index }, label: `Snapshot ${index + 1}`, path: other, pictured: alike(other) }],
  );
  const stems = document.stems.flatMap((stem, index): BesideChoice[] => {
    const theirs = stem.snapshots[stem.snapshot];
    return index === document.work || !theirs || theirs.stages.length === 0
      ? []
      : [{ of: { kind: "stem", index }, label: `Path of stem ${index + 1}`, path: theirs, pictured: alike(theirs) }];
  });
  return [...stages, ...others, ...stems];
}

/** The chosen one, if it is there. */
export function besideOf(document: BenchDocument, wanted: Beside | null): BesideChoice | null {
  if (!wanted) return null;
  return besideChoices(document).find(({ of }) => of.kind === wanted.kind && of.index === wanted.index) ?? null;
}
