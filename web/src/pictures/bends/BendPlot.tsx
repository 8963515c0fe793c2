/**
 * The bend of a parameter: its outcome over the whole range of its control, on the present passage with all else
 * as it stands, and a mark where it is now. A click or Enter sets the value; pointer and arrow keys read.
 */
import { type KeyboardEvent, type MouseEvent, useState } from "react";

import { type Control, isUnnoticed, text } from "../../core/core";
import { fromFile, toFile } from "../../core/numbers";
import type { BendPoint } from "../../generated/types/BendPoint";
import type { Outcome } from "../../generated/types/Outcome";
import { bendKey, useMeasured } from "../../measuring/measured";
import { askedAlong } from "../../parts/sliderKeys";
import classes from "./bend-plot.module.css";

const WIDTH = 104;
const HEIGHT = 40;
const EDGE = 6;
/** An outcome that moves by less than this is drawn flat, in its unit. */
const SMALLEST_SPAN = 1;

interface Props {
  stage: number;
  param: string;
  label: string;
  outcome: Outcome;
  control: Control;
  value: number;
  onPick: (value: number) => void;
  /** Says what the pointer reads; null when it has left. */
  onRead: (reading: string | null) => void;
}

export function BendPlot({ stage, param, label, outcome, control, value, onPick, onRead }: Props) {
  const bend = useMeasured((m) => m.bends[bendKey(stage, param)]);
  const stale = useMeasured((m) => bend !== undefined && bend.id !== m.asked);
  const [reading, setReading] = useState<number | null>(null);
  if (!bend) return <div className={classes.bend} />;

  const last = bend.points.length - 1;
  const placed = (point: BendPoint | null, place: number) =>
    point && point.outcome !== null ? [{ place, outcome: point.outcome }] : [];
  const measured = bend.points.flatMap((point, i) => placed(point, i / last));
  const then = control.position(fromFile(bend.now.value, value));
  // Choices stand beside each other, and nothing lies between them.
  const chosen = control.isChoice;
  const shown = chosen ? measured : [...measured, ...placed(bend.now, then)].toSorted((a, b) => a.place - b.place);
  if (shown.length === 0) {
    return (
      <div className={classes.bend} title={`This passage does not show the ${outcome.label}.`}>
        <span className={classes.none}>nothing to be read here</span>
      </div>
    );
  }
  const low = Math.min(...shown.map((p) => p.outcome));
  const high = Math.max(...shown.map((p) => p.outcome));
  const middle = (low + high) / 2;
  const half = Math.max(high - low, SMALLEST_SPAN) / 2;
  const x = (place: number) => EDGE + place * (WIDTH - 2 * EDGE);
  const y = (level: number) => HEIGHT / 2 - ((level - middle) / half) * (HEIGHT / 2 - EDGE);
  const line = shown
    .map((p, i) => `${i === 0 ? "M" : "L"}${x(p.place).toFixed(1)} ${y(p.outcome).toFixed(1)}`)
    .join("");
  const now = control.position(value);

  const nearest = (event: MouseEvent): BendPoint | null | undefined => {
    const box = event.currentTarget.getBoundingClientRect();
    const place = Math.min(1, Math.max(0, (event.clientX - box.left - EDGE) / (WIDTH - 2 * EDGE)));
    return bend.points[Math.round(place * last)];
  };
  const own = between(shown, now);
  const said = (point: BendPoint | null | undefined) => {
    if (!point) return "not measured yet";
    const little =
      point.outcome !== null && isUnnoticed(outcome.id, own, point.outcome) ? ", too near to be told apart" : "";
    return `at ${control.text(fromFile(point.value, value))}: ${text(outcome.unit, point.outcome ?? NaN)}${little}`;
  };
  const read = (point: BendPoint | null | undefined) => {
    if (!point || point.outcome === null) return;
    setReading(control.position(fromFile(point.value, value)));
    onRead(said(point));
  };
  const leave = () => {
    setReading(null);
    onRead(null);
  };
  const pick = (point: BendPoint | null | undefined) => {
    if (point) onPick(fromFile(point.value, value));
  };
  const place = Math.round((reading ?? now) * last);
  const onKey = (event: KeyboardEvent) => {
    const wanted = askedAlong(event);
    if (wanted) {
      event.preventDefault();
      const to = wanted.end === null ? place + wanted.along + 4 * wanted.pages : wanted.end * last;
      read(bend.points[Math.min(last, Math.max(0, to))]);
    } else if (event.key === "Enter") pick(bend.points[place]);
    else if (event.key === "Escape" && reading !== null) {
      event.preventDefault();
      leave();
    }
  };
  const ends = [bend.points[0], bend.points.at(-1)].map((p) =>
    p
      ? `${text(outcome.unit, p.outcome ?? NaN)} at ${control.text(fromFile(p.value, value))}`
      : "a value that is not measured yet",
  );

  return (
    <svg
      className={classes.bend}
      width={WIDTH}
      height={HEIGHT}
      role="slider"
      tabIndex={0}
      data-picture={`Bend of ${label}`}
      aria-label={`Bend of ${label}: ${outcome.label} from ${ends[0]} to ${ends[1]}`}
      aria-valuemin={0}
      aria-valuemax={last}
      aria-valuenow={place}
      aria-valuetext={reading === null ? said({ value: toFile(value), outcome: own }) : said(bend.points[place])}
      data-stale-bend={stale || undefined}
      onPointerMove={(event) => read(nearest(event))}
      onPointerLeave={leave}
      onBlur={leave}
      onKeyDown={onKey}
      onClick={(event) => pick(nearest(event))}
    >
      {chosen ? (
        shown.map((p) => (
          <circle key={p.place} cx={x(p.place)} cy={y(p.outcome)} r={2.5} className={classes.choice}>
            <title>{said(bend.points[Math.round(p.place * last)])}</title>
          </circle>
        ))
      ) : (
        <path d={line} className={classes.line} />
      )}
      {reading !== null && <line x1={x(reading)} x2={x(reading)} y1={2} y2={HEIGHT - 2} className={classes.reading} />}
      <circle cx={x(now)} cy={y(between(shown, now))} r={5} className={classes.mark} />
    </svg>
  );
}

/** The height of the drawn line at a place. */
function between(points: { place: number; outcome: number }[], place: number): number {
  const after = points.findIndex((p) => p.place >= place);
  const right = points[after] ?? points.at(-1);
  const left = points[Math.max(0, after - 1)] ?? right;
  if (!left || !right || right.place === left.place) return right?.outcome ?? 0;
  const share = (place - left.place) / (right.place - left.place);
  return left.outcome + Math.min(1, Math.max(0, share)) * (right.outcome - left.outcome);
}
