/** Where to begin: named usual settings, and the effect explained parameter by parameter. */
import { Button, NativeSelect } from "@mantine/core";

import { withStage, withStartingPoint } from "../../bench/edits";
import { beginGuide, endGuide, goGuide } from "../../bench/guide";
import { isGuided } from "../../bench/guided";
import { useBench, usePart } from "../../bench/store";
import { paramsOf } from "../../core/core";
import type { Effect } from "../../generated/types/Effect";
import type { StageDocument } from "../../generated/types/StageDocument";
import classes from "./parameters.module.css";

interface Props {
  effect: Effect;
  stage: StageDocument;
  index: number;
}

export function GuideBar({ effect, stage, index }: Props) {
  const edit = useBench((s) => s.edit);
  const guided = useBench((s) => s.guided);
  const here = usePart((d) => guided !== null && isGuided(guided, d, index));
  if (guided && here) {
    const { place } = guided;
    const step = effect.order[place];
    const param = paramsOf(effect).find(({ id }) => id === step?.param);
    const last = place === effect.order.length - 1;
    return (
      <div className={classes.guide} role="group" aria-label="Explained in order">
        <span aria-live="polite">
          <b>
            {place + 1} of {effect.order.length}
          </b>{" "}
          {param?.label}, at a plain setting
        </span>
        <Button size="compact-sm" variant="default" disabled={place === 0} onClick={() => goGuide(place - 1)}>
          Back
        </Button>
        <Button size="compact-sm" color="dark" disabled={last} onClick={() => goGuide(place + 1)}>
          Next parameter
        </Button>
        <Button size="compact-sm" variant="default" onClick={endGuide}>
          To my settings
        </Button>
      </div>
    );
  }
  if (effect.starting.length === 0 && effect.order.length === 0) return null;
  const like = effect.starting.find((point) => sameValues(withStartingPoint(stage, point), stage));
  return (
    <div className={classes.guide}>
      {effect.starting.length > 0 && (
        <NativeSelect
          size="xs"
          aria-label="Starting point"
          value={like?.name ?? ""}
          data={[
            { value: "", label: "Start from\u2026" },
            ...effect.starting.map(({ name }) => ({ value: name, label: name })),
          ]}
          onChange={({ target }) => {
            const point = effect.starting.find(({ name }) => name === target.value);
            if (point) edit(point.name, (d) => withStage(d, index, (s) => withStartingPoint(s, point)));
          }}
        />
      )}
      {effect.order.length > 0 && (
        <Button size="compact-sm" variant="default" onClick={beginGuide}>
          Explain in order
        </Button>
      )}
      {like && <p>{like.purpose} Usual values, common practice.</p>}
    </div>
  );
}

/** Whether two states of a stage have the same values. */
function sameValues(a: StageDocument, b: StageDocument): boolean {
  const ids = new Set([...Object.keys(a.params ?? {}), ...Object.keys(b.params ?? {})]);
  return a.mix === b.mix && [...ids].every((id) => a.params?.[id] === b.params?.[id]);
}
