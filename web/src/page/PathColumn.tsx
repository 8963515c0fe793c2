/** The path from source to output, each point with its levels, and the level line beside it. */
import { NativeSelect, Switch } from "@mantine/core";
import { type ReactNode, useLayoutEffect, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";

import { withSource, withSourceValue, withStage, withView } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { catalogue, effectNamed, signalControl, signalOf, signedDb, text } from "../core/core";
import { fromFile } from "../core/numbers";
import type { PointLevels } from "../generated/types/PointLevels";
import { useMeasured } from "../measuring/measured";
import { ValueField } from "../parts/ValueField";
import { LevelLine } from "../pictures/LevelLine";
import classes from "./path.module.css";

const LINE_WIDTH = 104;

export function PathColumn() {
  const source = usePart((d) => d.source);
  const listening = usePart((d) => d.listening);
  const chosen = usePart((d) => d.view.stage);
  const effects = useBench(useShallow((s) => s.history.present.document.path.stages.map((stage) => stage.effect)));
  const edit = useBench((s) => s.edit);
  const report = useMeasured((m) => m.report);
  const cards = useRef<HTMLDivElement>(null);
  const [heights, setHeights] = useState<{ top: number; bottom: number }[]>([]);
  const matchDb = listening.level_match && report ? report.level_match.gain_db : 0;

  const stagePoints = report?.points.slice(0, effects.length + 1) ?? [];
  const leaving = stagePoints.at(-1);
  const output: PointLevels | undefined = leaving && shifted(leaving, matchDb);
  const points = output ? [...stagePoints, output] : [];

  useLayoutEffect(() => {
    const found = Array.from(cards.current?.querySelectorAll("[data-point]") ?? []).map((card) => {
      const element = card as HTMLElement;
      return { top: element.offsetTop, bottom: element.offsetTop + element.offsetHeight };
    });
    setHeights(found);
    // The cards change height when their levels come in.
  }, [effects.length, points.length, source.kind]);

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
          <Card title="Source" levels={points[0]}>
            <NativeSelect
              size="xs"
              aria-label="Source"
              value={source.kind}
              data={catalogue.signals.map((s) => ({ value: s.id, label: s.label }))}
              onChange={({ target }) =>
                edit(`Source: ${signalOf(target.value).label}`, (d) => withSource(d, target.value))
              }
            />
          </Card>
          {effects.map((effect, i) => (
            <StageCard key={i} index={i} effect={effect} chosen={i === chosen} levels={points[i + 1]} />
          ))}
          <Card title="Output" levels={points.at(-1)}>
            <span className={classes.detail}>
              {listening.level_match ? `matched ${signedDb(matchDb)}` : "not matched"}
            </span>
          </Card>
        </div>
        {points.length > 1 && heights.length === points.length && (
          <LevelLine points={points} bends={bends} width={LINE_WIDTH} height={height} />
        )}
      </div>
      <p className={classes.key}>
        Thick line: loudness. Thin line: peak. Dotted: full scale.
      </p>
      <SourceSettings />
    </section>
  );
}

interface StageCardProps {
  index: number;
  effect: string;
  chosen: boolean;
  levels: PointLevels | undefined;
}

function StageCard({ index, effect, chosen, levels }: StageCardProps) {
  const { edit, look } = useBench.getState();
  const on = usePart((d) => d.path.stages[index]?.on ?? false);
  const { label } = effectNamed(effect);
  return (
    <Card title={label} chosen={chosen} onChoose={() => look((d) => withView(d, { stage: index }))} levels={levels}>
      <Switch
        size="xs"
        label={on ? "on" : "off"}
        aria-label={`${label} on`}
        checked={on}
        onChange={() => edit(`${label} ${on ? "off" : "on"}`, (d) => withStage(d, index, (s) => ({ ...s, on: !on })))}
      />
    </Card>
  );
}

function shifted(levels: PointLevels, db: number): PointLevels {
  const by = (level: number | null) => (level === null ? null : level + db);
  return { peak_dbfs: by(levels.peak_dbfs), loudness_lufs: by(levels.loudness_lufs) };
}

interface CardProps {
  title: string;
  levels: PointLevels | undefined;
  chosen?: boolean;
  onChoose?: () => void;
  children: ReactNode;
}

function Card({ title, levels, chosen, onChoose, children }: CardProps) {
  return (
    <div className={classes.card} data-point data-chosen={chosen || undefined}>
      {onChoose ? (
        <button type="button" className={classes.title} aria-pressed={chosen} onClick={onChoose}>
          {title}
        </button>
      ) : (
        <div className={classes.title}>{title}</div>
      )}
      {children}
      {levels && (
        <dl className={classes.levels}>
          <dt>loud</dt>
          <dd>{text("lufs", levels.loudness_lufs)}</dd>
          <dt>peak</dt>
          <dd>{text("dbfs", levels.peak_dbfs)}</dd>
        </dl>
      )}
    </div>
  );
}

/** The settings of the source, each as a typed value. */
function SourceSettings() {
  const source = usePart((d) => d.source);
  const edit = useBench((s) => s.edit);
  const signal = signalOf(source.kind);
  return (
    <div className={classes.settings}>
      <p className={classes.purpose}>{signal.purpose}</p>
      {signal.params.map((param) => {
        const control = signalControl(signal.id, param.id);
        return (
          <div key={param.id} className={classes.setting} title={param.what}>
            <span>{param.label}</span>
            <ValueField
              label={param.label}
              control={control}
              value={fromFile(source.params[param.id], param.default)}
              onChange={(value) =>
                edit(`${param.label} ${control.text(value)}`, (d) => withSourceValue(d, param.id, value))
              }
            />
          </div>
        );
      })}
    </div>
  );
}
