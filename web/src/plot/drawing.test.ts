import fc from "fast-check";
import { expect, test, vi } from "vitest";

vi.mock("../theme/theme", () => ({ token: (name: string) => name }));

import { columnsOf, fanShade, strokeLine } from "./drawing";
import type { Scales } from "./scales";

type Point = [number, number];

/** The corners of the line that is drawn through some points. */
function drawn(points: Point[]): Point[] {
  const corners: Point[] = [];
  const put = (x: number, y: number) => void corners.push([x, y]);
  const context = { beginPath() {}, moveTo: put, lineTo: put, stroke() {}, setLineDash() {}, closePath() {} };
  strokeLine(context as unknown as CanvasRenderingContext2D, points, { colour: "ink", width: 1 });
  return corners;
}

/** How high a line of corners is at a place. */
function heightAt(corners: Point[], x: number): number {
  const k = corners.findIndex(([to]) => to >= x);
  const [b, a] = [corners[k] as Point, corners[Math.max(0, k - 1)] as Point];
  return b[0] === a[0] ? b[1] : a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
}

test("points that a straight line passes anyway are left out, corners are kept", () => {
  const straight = Array.from({ length: 100 }, (_, x): Point => [x, 3 + 0.5 * x]);
  expect(drawn(straight)).toEqual([straight[0], straight[99]]);
  const corner: Point[] = [...straight, [120, 0], [140, 0]];
  expect(drawn(corner)).toEqual([straight[0], straight[99], [120, 0], [140, 0]]);
  expect(drawn([])).toEqual([]);
  expect(drawn([[4, 2]])).toHaveLength(1);
});

test("any line is drawn within what cannot be seen, a twentieth of a pixel and a little", () => {
  const heights = fc.array(
    fc.oneof(
      fc.double({ min: -400, max: 400, noNaN: true }),
      fc.constant(100),
      fc.double({ min: 99.9, max: 100.1, noNaN: true }),
    ),
    { minLength: 2, maxLength: 200 },
  );
  fc.assert(
    fc.property(heights, (all) => {
      const points = all.map((y, x): Point => [x, y]);
      const corners = drawn(points);
      for (const [x, y] of points) expect(Math.abs(heightAt(corners, x) - y)).toBeLessThanOrEqual(0.0601);
      expect(corners.length).toBeLessThanOrEqual(points.length + 1);
    }),
  );
});

test("a step straight up stands where it is", () => {
  const step: Point[] = [
    [0, 0],
    [5, 0],
    [5, 10],
    [9, 10],
  ];
  expect(drawn(step)).toEqual(step);
});

test("columns lie in the middle of their share of the axis", () => {
  const scales = { left: 10, right: 110, y: (v: number) => -v } as unknown as Scales;
  expect(columnsOf([1, 2, 3, 4], scales, (v) => 2 * v)).toEqual([
    [22.5, -2],
    [47.5, -4],
    [72.5, -6],
    [97.5, -8],
  ]);
});

test("the lines of a fan go from light to dark", () => {
  const shades = [0, 1, 2, 3, 4].map((k) => fanShade(k, 5));
  expect(shades[0]).toBeCloseTo(0.32);
  expect(shades[4]).toBeCloseTo(1);
  expect(shades.every((shade, k) => k === 0 || shade > (shades[k - 1] as number))).toBe(true);
  expect(fanShade(0, 1)).toBeCloseTo(0.32);
});
