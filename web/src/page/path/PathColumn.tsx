/** The path from source to output, each point with its levels, and the level line beside it. */
import {
  type Announcements,
  closestCenter,
  DndContext,
  type DragEndEvent,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
} from "@dnd-kit/core";
import { SortableContext, sortableKeyboardCoordinates, verticalListSortingStrategy } from "@dnd-kit/sortable";
import { NativeSelect } from "@mantine/core";
import { useLayoutEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";

import { useHeardBlade } from "../../bench/fanHeard";
import { pathOf, withStageAdded, withStageMoved, workOf } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { catalogue, effectNamed, signedDb } from "../../core/core";
import type { PointLevels } from "../../generated/types/PointLevels";
import { useMeasured } from "../../measuring/measured";
import { isMatched } from "../../measuring/said";
import { SENT } from "../../measuring/sent";
import { LevelLine } from "../../pictures/levels/LevelLine";
import { Card } from "./Card";
import classes from "./path.module.css";
import { ReferenceSelect, SourceSelect, SourceSettings } from "./SourceCard";
import { dragName, StageCard } from "./StageCard";
import { SendWays } from "./SendWays";
import { StemsPanel } from "./StemsPanel";

const LINE_WIDTH = 104;

export function PathColumn() {
  const source = usePart((d) => workOf(d).source);
  const sent = source.kind === SENT;
  const sum = useMeasured((m) => m.sum);
  const matchBy = usePart((d) => d.listening.level_match);
  const chosen = usePart((d) => d.view.stage);
  const scopes = usePart((d) =>
    pathOf(d)
      .stages.map((stage) => stage.scope)
      .join(),
  );
  const effects = useBench(useShallow((s) => pathOf(s.history.present.document).stages.map((stage) => stage.effect)));
  const edit = useBench((s) => s.edit);
  const report = useMeasured((m) => m.report);
  const cards = useRef<HTMLDivElement>(null);
  const [heights, setHeights] = useState<{ top: number; bottom: number }[]>([]);
  const [ways, setWays] = useState<{ top: number; bottom: number }[]>([]);
  const heard = useHeardBlade()?.row;
  const matchDb = (heard ?? report)?.level_matches[matchBy].gain_db ?? 0;

  // Up to the stage of an open fan all of its values are the same.
  const same = heard && report?.points.slice(0, effects.length + 1 - heard.points.length);
  const stagePoints = same ? [...same, ...heard.points] : (report?.points.slice(0, effects.length + 1) ?? []);
  const leaving = stagePoints.at(-1);
  const output: PointLevels | undefined = leaving && shifted(leaving, matchDb);
  const together: PointLevels[] = sum
    ? [{ peak_dbfs: sum.after.peak_dbfs, loudness_lufs: sum.after.loudness_lufs }]
    : [];
  const points = output ? [...stagePoints, output, ...together] : [];

  const sensors = useSensors(
    // A click is no drag.
    useSensor(PointerSensor, { activationConstraint: { distance: 6 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const drop = ({ active, over }: DragEndEvent) => {
    const [from, to] = [placeOf(effects, active.id), placeOf(effects, over?.id)];
    const effect = effects[from];
    if (to < 0 || from === to || effect === undefined) return;
    edit(`${effectNamed(effect).label} to place ${to + 1}`, (d) => withStageMoved(d, from, to));
  };

  useLayoutEffect(() => {
    const from = cards.current?.getBoundingClientRect().top ?? 0;
    const heightsOf = (css: string) =>
      Array.from(cards.current?.querySelectorAll(css) ?? []).map((card) => {
        const { top, bottom } = card.getBoundingClientRect();
        return { top: top - from, bottom: bottom - from };
      });
    const found = heightsOf("[data-point]");
    setHeights(found);
    setWays(heightsOf("[data-way]"));
    // The cards change height when their levels come in, and when another one is chosen.
  }, [effects, points.length, source, chosen, scopes, sum?.sends.length]);

  // A stage bends the line within its card; so does the level match at the output.
  const bends = heights.slice(1).map(({ top, bottom }) => ({ from: top + 6, to: bottom - 6 }));
  const height = (heights.at(-1)?.bottom ?? 0) + 26;

  return (
    <section className={classes.column} aria-label="Path and level">
      <h2 className={classes.heading}>
        Path and level <span>dBFS, LUFS</span>
      </h2>
      <div className={classes.track}>
        <div ref={cards} className={classes.cards}>
          <Card title={sent ? "What is sent" : "Source"} levels={points[0]}>
            <SourceSelect />
          </Card>
          <DndContext
            sensors={sensors}
            collisionDetection={closestCenter}
            onDragEnd={drop}
            accessibility={{
              announcements: announcements(effects),
              screenReaderInstructions: { draggable: HOW_TO_DRAG },
            }}
          >
            <SortableContext items={effects.map((_, i) => dragName(i))} strategy={verticalListSortingStrategy}>
              {effects.map((effect, i) => (
                <StageCard
                  key={i}
                  index={i}
                  last={effects.length - 1}
                  effect={effect}
                  chosen={i === chosen}
                  levels={points[i + 1]}
                />
              ))}
            </SortableContext>
          </DndContext>
          <NativeSelect
            size="xs"
            aria-label="Add a stage"
            value=""
            data={[
              { value: "", label: "Add a stage…" },
              ...catalogue.effects.map((e) => ({ value: e.id, label: e.label })),
            ]}
            onChange={({ target }) => {
              const effect = effectNamed(target.value);
              edit(`Add ${effect.label}`, (d) => withStageAdded(d, effect));
            }}
          />
          <Card title={sent ? "What comes back" : "Output"} levels={output}>
            <span className={classes.detail}>
              {isMatched(report, matchBy) ? `matched ${signedDb(matchDb)}` : "not matched"}
            </span>
          </Card>
          {sum && <SendWays sum={sum.after} ways={sum.sends} />}
        </div>
        {points.length > 1 && heights.length === points.length && (
          <div data-shows>
            <LevelLine
              points={points}
              bends={bends}
              ways={sum?.sends.flatMap(({ sent, back }, i) => (ways[i] ? [{ sent, back, ...ways[i] }] : [])) ?? []}
              width={LINE_WIDTH}
              height={height}
            />
          </div>
        )}
      </div>
      <p className={classes.key}>
        Thick line: loudness. Thin line: peak. Dotted: full scale.
        {sum && sum.sends.length > 0 && " Dashed: sent, and back."}
      </p>
      <SourceSettings />
      <ReferenceSelect />
      <StemsPanel />
    </section>
  );
}

const HOW_TO_DRAG = "Space picks the stage up, arrow keys move it, space lets it go, Escape leaves it where it was.";

type DragId = DragEndEvent["active"]["id"];

/** The place of a stage by what it is called while it is dragged; -1 where there is none. */
function placeOf(effects: string[], id: DragId | undefined): number {
  return effects.findIndex((_, i) => dragName(i) === id);
}

/** What is said while a stage is dragged. */
function announcements(effects: string[]): Announcements {
  const named = (id: DragId) => effectNamed(effects[placeOf(effects, id)] ?? "").label;
  const place = (id: DragId | undefined) => placeOf(effects, id) + 1;
  return {
    onDragStart: ({ active }) => `${named(active.id)} is held.`,
    onDragOver: ({ active, over }) => `${named(active.id)}: place ${place(over?.id)} of ${effects.length}.`,
    onDragEnd: ({ active, over }) => `${named(active.id)} stands at place ${place(over?.id)}.`,
    onDragCancel: ({ active }) => `${named(active.id)} stays where it was.`,
  };
}

function shifted(levels: PointLevels, db: number): PointLevels {
  const by = (level: number | null) => (level === null ? null : level + db);
  return { peak_dbfs: by(levels.peak_dbfs), loudness_lufs: by(levels.loudness_lufs) };
}
