/** What several pictures have: axes, and a gain over time. */
import { columnsOf, fillBetween, strokeLine, tickText } from "../plot/drawing";
import type { Axis } from "../plot/panes";
import type { Scales } from "../plot/scales";

export function timeAxis(seconds: number): Axis {
  const step = [0.05, 0.1, 0.25, 0.5, 1, 2, 5, 10, 30, 60, 120].find((s) => seconds / s <= 9) ?? 120;
  const ticks = Array.from({ length: Math.floor(seconds / step + 1e-6) + 1 }, (_, i) => i * step);
  return { domain: [0, seconds], ticks, format: (v) => `${+v.toFixed(2)} s` };
}

/** From the deepest of some gains, at least 6 dB down, up to 0 dB. */
export function gainAxis(gains: Float32Array[]): Axis {
  const lowest = Math.min(0, ...gains.map((gain) => gain.reduce((a, b) => Math.min(a, b), 0)));
  const deepest = Math.max(6, Math.ceil(-lowest / 6) * 6);
  const ticks = Array.from({ length: 3 }, (_, i) => (-deepest / 2) * i);
  return { domain: [-deepest, 0], ticks, format: tickText };
}

/** A gain over time, filled from 0 dB. */
export function drawGain(context: CanvasRenderingContext2D, s: Scales, gain: Float32Array): void {
  const points = columnsOf(gain, s, (v) => v);
  fillBetween(
    context,
    points,
    points.map(([x]) => [x, s.y(0)]),
    "gain-soft",
  );
  strokeLine(context, points, { colour: "gain", width: 1.8 });
}
