/**
 * The guided explanation: the parameters of an effect one after the other, each at a plain setting with the others
 * out of the way, and back to one's own settings at the end.
 */
import { effectOf, paramsOf } from "../core/core";
import type { StageDocument } from "../generated/types/StageDocument";
import { pathOf, valuesOf, withView, workOf } from "./edits";
import { atGuided, type Guided } from "./guided";
import { useBench } from "./store";

/** Begins with the first parameter of the chosen stage. Whatever else is being explained gets its own settings back. */
export function beginGuide(): void {
  endGuide();
  const { document } = useBench.getState().history.present;
  const { stage } = document.view;
  const before = pathOf(document).stages[stage];
  if (before) explain({ place: 0, stem: document.work, snapshot: workOf(document).snapshot, stage, before });
}

/** Goes to another parameter of the order. */
export function goGuide(place: number): void {
  const { guided } = useBench.getState();
  if (guided) explain({ ...guided, place });
}

/** Back to the settings from before, where they were. */
export function endGuide(): void {
  const { guided, edit, guide } = useBench.getState();
  if (!guided) return;
  edit("Back to my settings", (d) => withView(atGuided(d, guided, () => guided.before), { stage: guided.stage, spotlight: null, fan: null }));
  guide(null);
}

/** A stage that goes by its own signal; what it cannot be without stays. */
function withoutKeys(stage: StageDocument): StageDocument {
  const whole = effectOf(stage).sounds.flatMap((slot) => (slot.whole ? [slot.id] : []));
  return { ...stage, sounds: Object.fromEntries(Object.entries(stage.sounds ?? {}).filter(([id]) => whole.includes(id))) };
}

function explain(guided: Guided): void {
  const { before, stage, place } = guided;
  const step = effectOf(before).order[place];
  const param = step && paramsOf(effectOf(before)).find(({ id }) => id === step.param);
  if (!param) return;
  const plain: StageDocument = { ...withoutKeys(before), on: true, mix: 1, params: valuesOf(effectOf(before), step.plain) };
  const picture = param.picture ? { picture: param.picture } : {};
  const { edit, guide } = useBench.getState();
  guide(guided);
  edit(`Explain ${param.label.toLowerCase()}`, (d) => withView(atGuided(d, guided, () => plain), { stage, kept: null, spotlight: param.id, fan: null, ...picture }));
}
