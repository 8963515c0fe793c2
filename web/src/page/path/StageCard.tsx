/** One stage of the path: switch, and for the chosen one its scope, its place and its end. */
import { ActionIcon, NativeSelect, Switch } from "@mantine/core";
import { useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { type KeyboardEvent, type KeyboardEventHandler, type PointerEventHandler, useState } from "react";

import { pathOf, withoutStage, withStage, withStageMoved, withView, workOf } from "../../bench/edits";
import { hasRoomToShare } from "../../bench/sends";
import { useBench, usePart } from "../../bench/store";
import { effectNamed, sharingStage } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import type { PointLevels } from "../../generated/types/PointLevels";
import type { Scope } from "../../generated/types/Scope";
import { isShared } from "../../measuring/sent";
import { Card } from "./Card";
import classes from "./path.module.css";

const SCOPES: Record<Scope, string> = { stereo: "Stereo", left: "Left", right: "Right", mid: "Mid", side: "Side" };

/** What a stage is called while it is dragged, by its place. */
export const dragName = (index: number) => `stage ${index}`;

const focusable = (of: HTMLElement) => [...of.querySelectorAll<HTMLElement>("button, input, select")];

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
  const { label } = effectNamed(effect);
  const [refusal, setRefusal] = useState<string | null>(null);
  const name = last > 0 ? `${label}, stage ${index + 1}` : label;

  const move = (to: number) => {
    if (to >= 0 && to <= last && to !== index) {
      edit(`${label} to place ${to + 1}`, (d) => withStageMoved(d, index, to));
    }
  };
  const canShare = usePart((d) => !isShared(workOf(d)) && hasRoomToShare(d));
  const share = () => {
    try {
      const shared = sharingStage(useBench.getState().history.present.document, index);
      setRefusal(null);
      edit(`Share ${label}`, () => shared);
    } catch (error) {
      setRefusal(sentenceOf(error));
    }
  };
  const onKey = (event: KeyboardEvent<HTMLElement>) => {
    const by = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (!event.altKey || by === undefined) return;
    event.preventDefault();
    move(index + by);
    // Whoever moves it goes on with it: what had the focus has it in its new place.
    const card = event.currentTarget;
    const held = focusable(card).indexOf(event.target as HTMLElement);
    requestAnimationFrame(() => {
      const cards = [...(card.parentElement?.querySelectorAll<HTMLElement>(":scope > [data-stage]") ?? [])];
      const there = cards[index + by];
      if (there) focusable(there)[held]?.focus();
    });
  };
  const { attributes, listeners, setNodeRef, setActivatorNodeRef, transform, transition, isDragging } = useSortable({
    id: dragName(index),
    disabled: last === 0,
  });

  const grip = (
    <ActionIcon
      ref={setActivatorNodeRef}
      size="sm"
      variant="default"
      {...attributes}
      aria-label={`Drag ${name}`}
      title="Drag, or press space and move it with the arrow keys"
      onKeyDown={listeners?.onKeyDown as KeyboardEventHandler | undefined}
    >
      ≡
    </ActionIcon>
  );

  return (
    <div
      ref={setNodeRef}
      className={classes.place}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      data-dragged={isDragging || undefined}
      data-stage={index}
      onPointerDown={listeners?.onPointerDown as PointerEventHandler | undefined}
      onKeyDown={onKey}
    >
      <Card
        title={last > 0 ? `${index + 1} ${label}` : label}
        chosen={chosen}
        onChoose={() =>
          look((d) => (d.view.stage === index ? d : withView(d, { stage: index, spotlight: null, fan: null })))
        }
        levels={levels}
        aside={chosen && last > 0 ? grip : undefined}
      >
        <div className={classes.switches}>
          <Switch
            size="xs"
            label={chosen && last > 0 ? undefined : on ? "on" : "off"}
            aria-label={`${name} on`}
            checked={on}
            onChange={() =>
              edit(`${label} ${on ? "off" : "on"}`, (d) => withStage(d, index, (s) => ({ ...s, on: !on })))
            }
          />
          {!chosen && scope !== "stereo" && <span className={classes.detail}>{SCOPES[scope].toLowerCase()}</span>}
          {chosen && (
            <span className={classes.moves}>
              {last > 0 && (
                <>
                  <ActionIcon
                    size="sm"
                    variant="default"
                    aria-label={`Move ${name} up`}
                    title="Up (Alt ↑)"
                    disabled={index === 0}
                    onClick={() => move(index - 1)}
                  >
                    ↑
                  </ActionIcon>
                  <ActionIcon
                    size="sm"
                    variant="default"
                    aria-label={`Move ${name} down`}
                    title="Down (Alt ↓)"
                    disabled={index === last}
                    onClick={() => move(index + 1)}
                  >
                    ↓
                  </ActionIcon>
                </>
              )}
              {canShare && (
                <ActionIcon
                  size="sm"
                  variant="default"
                  aria-label={`Share ${name}`}
                  title="Make it a shared path: this stem sends to it as much as its mix is, and others can, too"
                  onClick={share}
                >
                  ⇉
                </ActionIcon>
              )}
              <ActionIcon
                size="sm"
                variant="default"
                aria-label={`Remove ${name}`}
                title="Remove"
                onClick={() => edit(`Remove ${label}`, (d) => withoutStage(d, index))}
              >
                ×
              </ActionIcon>
            </span>
          )}
        </div>
        {chosen && refusal && (
          <p className={classes.refusal} role="alert">
            This cannot be shared: {refusal}.
          </p>
        )}
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
