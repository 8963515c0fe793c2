/** One stage of the path: switch, and for the chosen one its scope, its place and its end. */
import { ActionIcon, NativeSelect, Switch } from "@mantine/core";
import { type DragEvent, type KeyboardEvent, useState } from "react";

import { pathOf, withoutStage, withStage, withStageMoved, withView } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { effectNamed } from "../core/core";
import type { PointLevels } from "../generated/types/PointLevels";
import type { Scope } from "../generated/types/Scope";
import { Card } from "./Card";
import classes from "./path.module.css";

const SCOPES: Record<Scope, string> = { stereo: "Stereo", left: "Left", right: "Right", mid: "Mid", side: "Side" };
const DRAGGED = "application/x-clear-bend-stage";

interface Props {
  index: number;
  last: number;
  effect: string;
  chosen: boolean;
  levels: PointLevels | undefined;
}

export function StageCard({ index, last, effect, chosen, levels }: Props) {
  const { edit, look } = useBench.getState();
  const on = usePart((d) => pathOf(d).stages[index]?.on ?? false);
  const scope = usePart((d) => pathOf(d).stages[index]?.scope ?? "stereo");
  const [over, setOver] = useState(false);
  const { label } = effectNamed(effect);
  const name = last > 0 ? `${label}, stage ${index + 1}` : label;

  const move = (to: number) => {
    if (to >= 0 && to <= last && to !== index) {
      edit(`${label} to place ${to + 1}`, (d) => withStageMoved(d, index, to));
    }
  };
  const onKey = (event: KeyboardEvent) => {
    if (!event.altKey) return;
    if (event.key === "ArrowUp") move(index - 1);
    if (event.key === "ArrowDown") move(index + 1);
  };
  const onDrop = (event: DragEvent) => {
    setOver(false);
    const from = event.dataTransfer.getData(DRAGGED);
    if (from === "") return;
    event.preventDefault();
    event.stopPropagation();
    edit(`${label} to place ${index + 1}`, (d) => withStageMoved(d, Number(from), index));
  };

  return (
    <div
      data-over={over || undefined}
      className={classes.place}
      draggable={last > 0}
      onDragStart={(event) => event.dataTransfer.setData(DRAGGED, String(index))}
      onDragOver={(event) => {
        if (!event.dataTransfer.types.includes(DRAGGED)) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={onDrop}
      onKeyDown={onKey}
    >
      <Card
        title={last > 0 ? `${index + 1} ${label}` : label}
        chosen={chosen}
        onChoose={() => look((d) => (d.view.stage === index ? d : withView(d, { stage: index, spotlight: null, fan: null })))}
        levels={levels}
      >
        <div className={classes.switches}>
          <Switch
            size="xs"
            label={chosen && last > 0 ? undefined : on ? "on" : "off"}
            aria-label={`${name} on`}
            checked={on}
            onChange={() => edit(`${label} ${on ? "off" : "on"}`, (d) => withStage(d, index, (s) => ({ ...s, on: !on })))}
          />
          {!chosen && scope !== "stereo" && <span className={classes.detail}>{SCOPES[scope].toLowerCase()}</span>}
          {chosen && (
            <span className={classes.moves}>
              {last > 0 && (
                <>
                  <ActionIcon size="sm" variant="default" aria-label={`Move ${name} up`} title="Up (Alt ↑)" disabled={index === 0} onClick={() => move(index - 1)}>
                ↑
              </ActionIcon>
              <ActionIcon size="sm" variant="default" aria-label={`Move ${name} down`} title="Down (Alt ↓)" disabled={index === last} onClick={() => move(index + 1)}>
                    ↓
                  </ActionIcon>
                </>
              )}
              <ActionIcon size="sm" variant="default" aria-label={`Remove ${name}`} title="Remove" onClick={() => edit(`Remove ${label}`, (d) => withoutStage(d, index))}>
                ×
              </ActionIcon>
            </span>
          )}
        </div>
        {chosen && (
          <NativeSelect
            size="xs"
            mt={4}
            aria-label={`Scope of ${name}`}
            value={scope}
            data={Object.entries(SCOPES).map(([value, label]) => ({ value, label }))}
            onChange={({ target }) => {
              const next = target.value as Scope;
              edit(`${label} on ${next}`, (d) => withStage(d, index, (s) => ({ ...s, scope: next })));
            }}
          />
        )}
      </Card>
    </div>
  );
}
