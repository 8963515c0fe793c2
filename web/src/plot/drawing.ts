/** Strokes that pictures share. Colours come from the theme's tokens. */
import { area, line } from "d3-shape";

import { token } from "../theme/theme";
import type { Scales } from "./scales";

type Column = [x: number, y: number];

/** The middle of every column along the axis. */
export function columnsOf(values: ArrayLike<number>, scales: Scales, value: (v: number) => number): Column[] {
  const width = (scales.right - scales.left) / values.length;
  return Array.from(values, (v, i) => [scales.left + (i + 0.5) * width, scales.y(value(v))]);
}

export function fillBetween(context: CanvasRenderingContext2D, upper: Column[], lower: Column[], colour: string): void {
  const shape = area<Column>()
    .x((p) => p[0])
    .y0((_, i) => lower[i]?.[1] ?? 0)
    .y1((p) => p[1])
    .context(context);
  context.beginPath();
  shape(upper);
  context.fillStyle = token(colour);
  context.fill();
}

/** What a line may lie beside a point that it leaves out, pixels: less than can be seen. */
const UNSEEN_PX = 0.06;

/**
 * The points that a line from left to right needs: those it passes within {@link UNSEEN_PX} anyway are left out. From
 * each point that is kept, a cone of slopes holds all lines that pass near enough to those after it; it narrows until
 * the next point lies outside. Steps straight up are kept; a line must not go back to the left.
 */
function needed(points: Column[]): Column[] {
  const kept = points.slice(0, 1);
  let [low, high] = [-Infinity, Infinity];
  for (let i = 1; i < points.length; i++) {
    const [x, y] = points[i] as Column;
    const slopeTo = (up: number) => {
      const [fromX, fromY] = kept.at(-1) as Column;
      return (y + up - fromY) / (x - fromX);
    };
    const slope = slopeTo(0);
    // What has no slope, a step straight up or a point that is nowhere, is a corner.
    if (!(Number.isFinite(slope) && slope >= low && slope <= high)) {
      kept.push(points[i - 1] as Column);
      [low, high] = [-Infinity, Infinity];
    }
    low = Math.max(low, slopeTo(-UNSEEN_PX));
    high = Math.min(high, slopeTo(UNSEEN_PX));
  }
  return points.length > 1 ? [...kept, points.at(-1) as Column] : kept;
}

export interface Stroke {
  colour: string;
  width: number;
  dash?: number[];
  /** Share of the colour against the paper, 0 to 1: the lines of a fan. */
  share?: number;
}

/** How strong the line of one value of a fan is, from light to dark. */
export function fanShade(index: number, count: number): number {
  return 0.32 + (0.68 * index) / Math.max(1, count - 1);
}

export function strokeLine(
  context: CanvasRenderingContext2D,
  points: Column[],
  { colour, width, dash, share = 1 }: Stroke,
): void {
  context.beginPath();
  line<Column>().context(context)(needed(points));
  context.strokeStyle = token(colour);
  context.lineWidth = width;
  context.lineJoin = "round";
  context.setLineDash(dash ?? []);
  context.globalAlpha = share;
  context.stroke();
  context.globalAlpha = 1;
}

export function dots(context: CanvasRenderingContext2D, points: Column[], radius: number, colour: string): void {
  context.fillStyle = token(colour);
  points.forEach(([x, y]) => {
    context.beginPath();
    context.arc(x, y, radius, 0, 2 * Math.PI);
    context.fill();
  });
}

export interface Levels {
  /** In dB: columns of rows from the bottom up, one column after the other. */
  levels: ArrayLike<number>;
  columns: number;
  rows: number;
  /** What is not seen any more, and what has the whole colour, dB. */
  faintest: number;
  strongest: number;
  colour: string;
}

/** Levels over a plane: the stronger, the more of the colour. */
export function paintLevels(
  context: CanvasRenderingContext2D,
  s: Scales,
  { levels, columns, rows, faintest, strongest, colour }: Levels,
): void {
  const [width, height] = [(s.right - s.left) / columns, (s.bottom - s.top) / rows];
  context.fillStyle = token(colour);
  for (let i = 0; i < levels.length; i++) {
    const share = ((levels[i] ?? faintest) - faintest) / (strongest - faintest);
    if (share <= 0.02) continue;
    context.globalAlpha = Math.min(1, share) ** 1.6;
    const [column, row] = [Math.floor(i / rows), i % rows];
    // From edge to edge of whole pixels: nothing shows through between two, and none lies over its neighbour.
    const [left, right] = [column, column + 1].map((edge) => Math.round(s.left + edge * width)) as Column;
    const [bottom, top] = [row, row + 1].map((edge) => Math.round(s.bottom - edge * height)) as Column;
    context.fillRect(left, top, right - left, bottom - top);
  }
  context.globalAlpha = 1;
}

/** A wave by the lowest and the highest sample of every column along the axis. */
export function drawWave(
  context: CanvasRenderingContext2D,
  s: Scales,
  wave: [number, number][],
  fill: string,
  { colour, width }: Stroke,
): void {
  const step = (s.right - s.left) / wave.length;
  const edge = (which: 0 | 1) => wave.map((pair, i): Column => [s.left + (i + 0.5) * step, s.y(pair[which])]);
  fillBetween(context, edge(1), edge(0), fill);
  strokeLine(context, edge(1), { colour, width });
}

/** A tick of an axis, with a true minus sign. */
export function tickText(value: number): string {
  return String(value).replace("-", "\u2212");
}

/** An amplitude in dBFS, for drawing; not lower than the floor. */
export function toDbfs(amplitude: number, floor: number): number {
  return Math.max(floor, 20 * Math.log10(Math.abs(amplitude)));
}
