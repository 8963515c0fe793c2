/** One curve of a designed response over time: its points are dragged or moved by keys, a double click adds one. */
import { curveControl, text } from "../../../core/core";
import type { DesignView } from "../../../generated/types/DesignView";
import type { Param } from "../../../generated/types/Param";
import type { Unit } from "../../../generated/types/Unit";
import { timeAxis } from "../../../pictures/shared";
import { dots, strokeLine, tickText } from "../../../plot/drawing";
import { PlotFrame } from "../../../plot/PlotFrame";
import type { Scales } from "../../../plot/scales";
import { PointHandle } from "../../../plot/PointHandle";
import { addedPoint, movedPoint, type Point, without } from "./design";

/** A step of a key along, as a share of the length. */
const STEP = 0.01;

/** Where the upright axis has its ticks along the control. */
const TICKS = [0, 0.25, 0.5, 0.75, 1];

/** What stands over an axis, and how values are counted on it. */
const UNITS: Partial<Record<Unit, { name: string; shown?: (value: number) => number }>> = {
  "per-s": { name: "reflections per second" },
  db: { name: "dB" },
  "fine-ms": { name: "ms" },
  percent: { name: "%", shown: (value) => 100 * value },
  hz: { name: "Hz" },
  bits: { name: "bits" },
  "fine-s": { name: "s to fall by 60 dB" },
};

/** A number that has room beside an axis. */
function short(value: number): string {
  const thousands = Math.abs(value) >= 1000;
  const written = Number((thousands ? value / 1000 : value).toPrecision(2));
  return tickText(written) + (thousands ? "k" : "");
}

interface Props {
  param: Param;
  points: Point[];
  seconds: number;
  chosen: number;
  view: DesignView | undefined;
  onChoose: (index: number) => void;
  onChange: (points: Point[], mergeKey?: string) => void;
}

export function CurvePlot({ param, points, seconds, chosen, view, onChoose, onChange }: Props) {
  const control = curveControl(param.id);
  const place = (value: number) => control.position(value);
  const line = (s: Scales): [number, number][] => {
    const all = points.map(([at, value]): [number, number] => [s.x(at), s.y(place(value))]);
    const [first, last] = [all[0], all.at(-1)];
    return first && last ? [[s.left, first[1]], ...all, [Math.max(s.right, last[0]), last[1]]] : [];
  };
  const counted = param.id === "density_per_s" ? (view?.density ?? []) : [];
  const valueAt = (at: number) => {
    // Between two points the place along the control moves evenly: that is how the core reads it.
    const next = points.findIndex(([time]) => time > at);
    const [a, b] = [points[next === -1 ? points.length - 1 : next - 1], points[next]];
    if (!a || !b) return (a ?? b)?.[1] ?? 0;
    return control.value(place(a[1]) + ((at - a[0]) / (b[0] - a[0])) * (place(b[1]) - place(a[1])));
  };
  const near = (at: number) => counted.findLast((point) => point.at_s <= at);
  const { name, shown = (value: number) => value } = UNITS[param.unit] ?? { name: "" };
  return (
    <PlotFrame
      label={`${param.label} over time`}
      x={timeAxis(seconds)}
      panes={[
        {
          title: `${param.label}, ${name}${counted.length > 0 ? "; dots: counted in the response" : ""}`,
          axis: { domain: [0, 1], ticks: TICKS, format: (y) => short(shown(control.value(y))) },
          share: 1,
          draw: (context, s) => {
            dots(
              context,
              counted.flatMap(({ at_s, counted_per_s }): [number, number][] =>
                counted_per_s === null ? [] : [[s.x(at_s), s.y(place(counted_per_s))]],
              ),
              2.5,
              "after",
            );
            strokeLine(context, line(s), { colour: "gain", width: 2 });
          },
          over: (s) =>
            points.map(([at, value], index) => (
              <PointHandle
                key={index}
                number={index + 1}
                label={`${param.label}, point ${index + 1}`}
                said={`${text("fine-s", at)}, ${control.text(value)}`}
                lit={index === chosen}
                x={Math.min(s.right, s.x(at))}
                y={s.y(place(value))}
                along={Math.min(1, at / seconds)}
                onTo={(x, y) =>
                  onChange(
                    movedPoint(points, index, [Math.min(seconds, s.x.invert(x)), control.value(s.y.invert(y))]),
                    `${param.id} ${index}`,
                  )
                }
                onStep={(along, up) =>
                  onChange(
                    movedPoint(points, index, [
                      at + along * STEP * seconds,
                      up === 0 ? value : control.nudged(value, up),
                    ]),
                    `${param.id} ${index}`,
                  )
                }
                onChoose={() => onChoose(index)}
                onRemove={() => points.length > 1 && onChange(without(points, index))}
              />
            )),
        },
      ]}
      onDouble={(x, y) => {
        const added = addedPoint(points, [Math.min(seconds, x), control.value(y)]);
        onChange(added.points);
        onChoose(added.index);
      }}
      read={(at) => {
        const found = near(at)?.counted_per_s;
        return {
          lines: [text("fine-s", at), control.text(valueAt(at)), ...(found ? [`counted ${control.text(found)}`] : [])],
        };
      }}
      version={`${param.id} ${JSON.stringify(points)} ${seconds} ${JSON.stringify(counted)}`}
    />
  );
}
