/** What pictures over frequency share: the axis, the frequencies of curves, and curves as lines. */
import { curvesOf, logFreqs, noteText, text } from "../../core/core";
import type { Curves } from "../../generated/types/Curves";
import type { StageDocument } from "../../generated/types/StageDocument";
import { CURVE_POINTS, HIGHEST_HZ, LOWEST_HZ } from "../../measuring/frequencies";
import { tickText } from "../../plot/drawing";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";

const TICKS_HZ = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];

/** The place of a frequency on the axis. */
export const placeOf = (hz: number) => Math.log10(hz);
/** The frequency at a place of the axis. */
export const hzAt = (place: number) => 10 ** place;

/** The name of an octave or a tick: 31.5, 250, 4k. */
export const shortHz = (hz: number) => (hz >= 1000 ? `${hz / 1000}k` : String(hz));

export const FREQUENCY_AXIS: Axis = {
  domain: [placeOf(LOWEST_HZ), placeOf(HIGHEST_HZ)],
  ticks: TICKS_HZ.map(placeOf),
  format: (place) => shortHz(Math.round(hzAt(place))),
};

let known: Float64Array | null = null;

/** The frequencies at which curves are computed and measured. */
export function curveFreqs(): Float64Array {
  known ??= logFreqs(LOWEST_HZ, HIGHEST_HZ, CURVE_POINTS);
  return known;
}

const knownCurves = new WeakMap<StageDocument, Curves | null>();

/** The curves of a stage at these frequencies, computed once for all that show them. */
export function stageCurves(stage: StageDocument): Curves | null {
  let curves = knownCurves.get(stage);
  if (curves === undefined) {
    curves = curvesOf(stage, curveFreqs());
    knownCurves.set(stage, curves);
  }
  return curves;
}

/** The index of the curve's point nearest to a place of the axis. */
export function pointAt(place: number): number {
  const [low, high] = FREQUENCY_AXIS.domain;
  const index = Math.round(((place - low) / (high - low)) * (CURVE_POINTS - 1));
  return Math.min(CURVE_POINTS - 1, Math.max(0, index));
}

/** The points of a curve over frequency; values that are missing are left out. */
export function curveLine(values: ArrayLike<number | null>, s: Scales): [number, number][] {
  const last = Math.max(1, values.length - 1);
  const points: [number, number][] = [];
  for (let i = 0; i < values.length; i++) {
    const value = values[i];
    if (value !== null && value !== undefined) points.push([s.left + (i / last) * (s.right - s.left), s.y(value)]);
  }
  return points;
}

/** A frequency as it is read: in Hz and as a note. */
export function freqText(hz: number): string {
  return `${text("hz", hz)}, ${noteText(hz)}`;
}

/** From a deep to a high value with round ticks, an odd number of them. */
export function evenAxis(low: number, high: number, step: number): Axis {
  const ticks = Array.from({ length: Math.round((high - low) / step) + 1 }, (_, i) => +(low + i * step).toFixed(6));
  return { domain: [low, high], ticks, format: tickText };
}
