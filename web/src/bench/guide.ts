/**
 * The guided explanation: the parameters of an effect one after the other, each at a plain setting with the others
 * out of the way, and back to one's own settings at the end.
 */
import { create } from "zustand";

import { effectOf, paramsOf } from "../core/core";
import type { StageDocument } from "../generated/types/StageDocument";
import { toFile } from "../core/numbers";
import { pathOf, withKey, withStage, withView } from "./edits";
import { useBench } from "./store";

interface Guide {
  /** The place in the order of the effect; none while nothing is being explained. */
  place: number | null;
  /** The stage that is being explained, by its place in the path, and as it was before. */
  stage: number;
  before: StageDocument | null;
}

export const useGuide = create<Guide>()(() => ({ place: null, stage: 0, before: null }));

/** Begins with the first parameter of the chosen stage. */
export function beginGuide(): void {
  const { document } = useBench.getState().history.present;
  const stage = document.view.stage;
  const before = pathOf(document).stages[stage];
  if (!before) return;
  useGuide.setState({ place: 0, stage, before });
  explain(0);
}

/** Goes to another parameter of the order. */
export function goGuide(place: number): void {
  useGuide.setState({ place });
  explain(place);
}

/** Back to the settings from before. */
export function endGuide(): void {
  const { before, stage } = useGuide.getState();
  useGuide.setState({ place: null, before: null });
  if (before) {
    useBench.getState().edit("Back to my settings", (d) => withView(withStage(d, stage, () => before), { spotlight: null, fan: null }));
  }
}

function explain(place: number): void {
  const { before, stage } = useGuide.getState();
  const step = before && effectOf(before).order[place];
  if (!before || !step) return;
  const param = paramsOf(effectOf(before)).find(({ id }) => id === step.param);
  if (!param) return;
  const plain: StageDocument = { ...withKey(before, undefined), on: true, mix: 1, params: Object.fromEntries(step.plain.map(([id, value]) => [id, toFile(value)])) };
  const picture = param.picture ? { picture: param.picture } : {};
  useBench
    .getState()
    .edit(`Explain ${param.label.toLowerCase()}`, (d) => withView(withStage(d, stage, () => plain), { stage, kept: null, spotlight: param.id, fan: null, ...picture }));
}
