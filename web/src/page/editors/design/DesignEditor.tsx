/**
 * A designed response, taken hold of: its curves over time, the reflections that are placed by hand, and what comes of it. What is changed
 * is a change of the bench, heard and undone like any other.
 */
import { useState } from "react";

import { sourceWith } from "../../../bench/edits";
import { catalogue, curveControl, placedControl, signalControl, signalOf } from "../../../core/core";
import { fromFile } from "../../../core/numbers";
import type { Param } from "../../../generated/types/Param";
import type { Placed } from "../../../generated/types/Placed";
import type { SourceDocument } from "../../../generated/types/SourceDocument";
import { useDesignView } from "../../../measuring/aside";
import { ValueField } from "../../../parts/ValueField";
import type { Edited } from "../edited";
import { SoundDrawer } from "../../drawers/SoundDrawer";
import { CurveList } from "./CurveList";
import { CurvePlot } from "./CurvePlot";
import {
  addedPoint,
  movedPoint,
  PLACED,
  placedOf,
  type Point,
  pointsOf,
  withPlaced,
  withPoints,
  without,
} from "./design";
import classes from "./design.module.css";
import { DesignDecays, DesignWave } from "./DesignViews";
import { PlacedPlot } from "./PlacedPlot";
import { PointFields } from "./PointFields";

export function DesignEditor({ sound, onChange, onClose }: Edited) {
  return (
    <SoundDrawer title="Response by design" source={sound} onClose={onClose}>
      <Content design={sound} onChange={onChange} />
    </SoundDrawer>
  );
}

interface Props {
  design: SourceDocument;
  onChange: Edited["onChange"];
}

function Content({ design, onChange }: Props) {
  const [chosen, setChosen] = useState(catalogue.curves[0]?.id ?? PLACED);
  const { view, stale } = useDesignView(design);
  const params = signalOf(design.kind)?.params ?? [];
  const valueOf = (param: Param) => fromFile(design.params?.[param.id], fromFile(param.default, 0));
  const length = params.find(({ id }) => id === "length_s");
  const seconds = length ? valueOf(length) : catalogue.longest_design_s;
  const curve = catalogue.curves.find(({ id }) => id === chosen);
  return (
    <div className={classes.design} data-of-bench data-design-stale={stale || undefined}>
      <CurveList design={design} seconds={seconds} chosen={chosen} onChoose={setChosen} />
      <div className={classes.drawn}>
        {curve ? (
          <OfCurve key={curve.id} design={design} param={curve} seconds={seconds} view={view} onChange={onChange} />
        ) : (
          <OfPlaced design={design} seconds={seconds} onChange={onChange} />
        )}
      </div>
      <div className={classes.settings}>
        {params.map((param) => {
          const control = signalControl(design.kind, param.id);
          return (
            <label key={param.id} className={classes.field} title={param.what}>
              <span>{param.label}</span>
              <ValueField
                label={param.label}
                control={control}
                value={valueOf(param)}
                onChange={(value) =>
                  onChange(`${param.label} ${control.text(value)}`, sourceWith(design, [[param, value]]))
                }
              />
            </label>
          );
        })}
      </div>
      {view && <DesignWave view={view} stale={stale} />}
      {view && <DesignDecays view={view} stale={stale} />}
      <div className={classes.sentences} aria-live="polite">
        {view?.sentences.map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
      </div>
    </div>
  );
}

interface CurveProps extends Props {
  param: Param;
  seconds: number;
  view: ReturnType<typeof useDesignView>["view"];
}

function OfCurve({ design, param, seconds, view, onChange }: CurveProps) {
  const [chosen, setChosen] = useState(0);
  const control = curveControl(param.id);
  const points = pointsOf(design, param);
  const index = Math.min(chosen, points.length - 1);
  const [at, value] = points[index] ?? [0, 0];
  const change = (next: Point[], mergeKey?: string) =>
    onChange(param.label, withPoints(design, param, next), mergeKey && `design ${mergeKey}`);
  const put = (point: Point) => change(movedPoint(points, index, point));
  const add = () => {
    // Halfway to the next one, or to the end.
    const next = points[index + 1]?.[0] ?? Math.max(at, seconds);
    const added = addedPoint(points, [(at + next) / 2, value]);
    change(added.points);
    setChosen(added.index);
  };
  return (
    <>
      <div className={classes.plot}>
        <CurvePlot
          param={param}
          points={points}
          seconds={seconds}
          chosen={index}
          view={view}
          onChoose={setChosen}
          onChange={change}
        />
      </div>
      <PointFields
        what="point"
        index={index}
        count={points.length}
        most={catalogue.most_points}
        fields={[
          {
            label: "Time",
            control: placedControl("at_ms"),
            value: 1000 * at,
            onChange: (ms) => put([ms / 1000, value]),
          },
          { label: "Value", control, value, onChange: (next) => put([at, next]) },
        ]}
        onChoose={setChosen}
        onAdd={add}
        onRemove={points.length > 1 ? () => change(without(points, index)) : null}
      />
    </>
  );
}

function OfPlaced({ design, seconds, onChange }: Props & { seconds: number }) {
  const [chosen, setChosen] = useState(0);
  const placed = placedOf(design);
  const index = Math.max(0, Math.min(chosen, placed.length - 1));
  const change = (next: Placed[], mergeKey?: string) =>
    onChange("Reflections placed by hand", withPlaced(design, next), mergeKey && `design ${mergeKey}`);
  const add = (at_ms: number, level_db: number) => {
    const [time, level] = [placedControl("at_ms"), placedControl("level_db")];
    change([
      ...placed,
      { at_ms: time.value(time.position(at_ms)), level_db: level.value(level.position(level_db)), side: 0 },
    ]);
    setChosen(placed.length);
  };
  const held = placed[index];
  return (
    <>
      <div className={classes.plot}>
        <PlacedPlot
          placed={placed}
          seconds={seconds}
          chosen={index}
          onChoose={setChosen}
          onChange={change}
          onAdd={add}
        />
      </div>
      <PointFields
        what="reflection"
        index={index}
        count={placed.length}
        most={catalogue.most_placed}
        fields={catalogue.placed.map((param) => {
          const id = param.id as keyof Placed;
          return {
            label: param.label,
            control: placedControl(id),
            value: held?.[id] ?? 0,
            onChange: (value) => change(placed.map((each, i) => (i === index ? { ...each, [id]: value } : each))),
          };
        })}
        onChoose={setChosen}
        // Later than the last one, so that it is seen.
        onAdd={() => add(Math.min(1000 * seconds, Math.max(0, ...placed.map(({ at_ms }) => at_ms)) + 10), 0)}
        onRemove={held ? () => change(without(placed, index)) : null}
      />
    </>
  );
}
