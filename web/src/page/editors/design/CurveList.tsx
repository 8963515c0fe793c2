/** All curves of a designed response at a glance, each as a small line; one of them is drawn large. */
import { catalogue, curveControl } from "../../../core/core";
import type { SourceDocument } from "../../../generated/types/SourceDocument";
import classes from "./design.module.css";
import { PLACED, placedOf, type Point, pointsOf } from "./design";

const WIDTH = 64;
const HEIGHT = 18;

interface Props {
  design: SourceDocument;
  seconds: number;
  chosen: string;
  onChoose: (id: string) => void;
}

export function CurveList({ design, seconds, chosen, onChoose }: Props) {
  const placed = placedOf(design);
  return (
    <fieldset className={classes.curves}>
      <legend>Over time</legend>
      {catalogue.curves.map((param) => {
        const control = curveControl(param.id);
        const points = pointsOf(design, param);
        const values = points.map(([, value]) => value);
        const [low, high] = [Math.min(...values), Math.max(...values)];
        const said = control.text(values[0] ?? 0) + (low === high ? "" : " \u2026");
        return (
          <Choice
            key={param.id}
            id={param.id}
            label={param.label}
            said={said}
            what={param.what}
            chosen={chosen}
            onChoose={onChoose}
          >
            <polyline points={small(points, seconds, (value) => control.position(value))} />
          </Choice>
        );
      })}
      <Choice
        id={PLACED}
        label="Placed by hand"
        said={placed.length === 0 ? "none" : String(placed.length)}
        what="Single reflections, each where you put it."
        chosen={chosen}
        onChoose={onChoose}
      >
        {placed.map(({ at_ms }, i) => (
          <line
            key={i}
            x1={(at_ms / 1000 / seconds) * WIDTH}
            x2={(at_ms / 1000 / seconds) * WIDTH}
            y1={3}
            y2={HEIGHT}
          />
        ))}
      </Choice>
    </fieldset>
  );
}

/** A curve in a few pixels. */
function small(points: Point[], seconds: number, place: (value: number) => number): string {
  const all = points.map(
    ([at, value]) => [Math.min(1, at / seconds) * WIDTH, 2 + (1 - place(value)) * (HEIGHT - 4)] as const,
  );
  const [first, last] = [all[0], all.at(-1)];
  const whole = first && last ? [[0, first[1]] as const, ...all, [WIDTH, last[1]] as const] : all;
  return whole.map(([x, y]) => `${x.toFixed(1)},${y.toFixed(1)}`).join(" ");
}

interface ChoiceProps {
  id: string;
  label: string;
  said: string;
  what: string;
  chosen: string;
  onChoose: (id: string) => void;
  children: React.ReactNode;
}

function Choice({ id, label, said, what, chosen, onChoose, children }: ChoiceProps) {
  return (
    <label className={classes.curve} title={what} data-chosen={chosen === id || undefined}>
      <input
        type="radio"
        name="curve"
        value={id}
        checked={chosen === id}
        onChange={() => onChoose(id)}
        aria-label={label}
      />
      <span>{label}</span>
      <svg width={WIDTH} height={HEIGHT} aria-hidden>
        {children}
      </svg>
      <span className={classes.said}>{said}</span>
    </label>
  );
}
