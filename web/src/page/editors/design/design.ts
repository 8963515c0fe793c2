/** What of a designed response is drawn, and the changes of it. */
import { catalogue } from "../../../core/core";
import { fromFile } from "../../../core/numbers";
import type { Param } from "../../../generated/types/Param";
import type { Placed } from "../../../generated/types/Placed";
import type { SourceDocument } from "../../../generated/types/SourceDocument";

/** Time, s, and value. */
export type Point = [at_s: number, value: number];

/** What is chosen to be drawn: a curve by its id, or the reflections that are placed by hand. */
export const PLACED = "placed";

/** The points of a curve; one that is not drawn is level at its default. */
export function pointsOf({ design }: SourceDocument, param: Param): Point[] {
  return design?.curves?.[param.id] ?? [[0, fromFile(param.default, 0)]];
}

export function placedOf({ design }: SourceDocument): Placed[] {
  return design?.placed ?? [];
}

export function withPoints(source: SourceDocument, param: Param, points: Point[]): SourceDocument {
  return { ...source, design: { ...source.design, curves: { ...source.design?.curves, [param.id]: points } } };
}

export function withPlaced(source: SourceDocument, placed: Placed[]): SourceDocument {
  return { ...source, design: { ...source.design, placed } };
}

/** A time that can be written, between two others. */
export function timeBetween(seconds: number, from: number, to: number): number {
  return Math.min(to, Math.max(from, Math.round(1000 * seconds) / 1000));
}

/** A point moved to a time and a value, between its neighbours. */
export function movedPoint(points: Point[], index: number, [at, value]: Point): Point[] {
  const from = points[index - 1]?.[0] ?? 0;
  const to = points[index + 1]?.[0] ?? catalogue.longest_design_s;
  return points.map((point, i) => (i === index ? [timeBetween(at, from, to), value] : point));
}

/** A further point; where it is among them. */
export function addedPoint(points: Point[], [at, value]: Point): { points: Point[]; index: number } {
  const written = timeBetween(at, 0, catalogue.longest_design_s);
  const index = points.filter((point) => point[0] <= written).length;
  return { points: [...points.slice(0, index), [written, value], ...points.slice(index)], index };
}

export const without = <T>(items: T[], index: number): T[] => items.filter((_, i) => i !== index);
