/**
 * The guided explanation: the parameters of an effect one after the other, each at a plain setting with the others
 * out of the way, and back to one's own settings at the end.
 */
import { effectOf, explained, paramsOf } from "../core/core";
import { pathOf, withView, workOf } from "./edits";
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
  edit("Back to my settings", (d) =>
    withView(
      atGuided(d, guided, () => guided.before),
      { stage: guided.stage, spotlight: null, fan: null },
    ),
  );
  guide(null);
}

function explain(guided: Guided): void {
  const { before, stage, place } = guided;
  const plain = explained(before, place);
  const param = paramsOf(effectOf(before)).find(({ id }) => id === effectOf(before).order[place]?.param);
  if (!param || !plain) return;
  const picture = param.picture ? { picture: param.picture } : {};
  const { edit, guide } = useBench.getState();
  guide(guided);
  edit(`Explain ${param.label.toLowerCase()}`, (d) =>
    withView(
      atGuided(d, guided, () => plain),
      { stage, kept: null, spotlight: param.id, fan: null, ...picture },
    ),
  );
}
