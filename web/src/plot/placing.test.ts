import fc from "fast-check";
import { beforeEach, expect, test } from "vitest";

import { placeApart } from "./placing";

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

/** A piece of text in a picture, as far as placing knows it: it moves where its style says. */
class Letters {
  readonly style = { translate: "", visibility: "" };
  constructor(
    private readonly box: Box,
    private readonly movable: boolean,
  ) {}
  get by(): number {
    return Number(/0 (-?[\d.]+)px/.exec(this.style.translate)?.[1] ?? 0);
  }
  get now(): Box {
    return { ...this.box, top: this.box.top + this.by, bottom: this.box.bottom + this.by };
  }
  closest = () => (this.movable ? this : null);
  getBoundingClientRect = () => ({
    ...this.now,
    height: this.box.bottom - this.box.top,
    width: this.box.right - this.box.left,
  });
}

function picture(movable: Letters[], fixed: Letters[]): SVGSVGElement {
  return {
    querySelectorAll: (asked: string) => (asked === "text" ? [...fixed, ...movable] : movable),
    getBoundingClientRect: () => ({ left: 0, right: 600, top: 0, bottom: 300 }),
  } as unknown as SVGSVGElement;
}

let frames: (() => void)[] = [];
beforeEach(() => {
  frames = [];
  Object.assign(globalThis, { requestAnimationFrame: (then: () => void) => frames.push(then) });
});

function placed(svg: SVGSVGElement): void {
  placeApart(svg);
  placeApart(svg);
  expect(frames).toHaveLength(1);
  frames.splice(0).forEach((frame) => frame());
}

const at = (left: number, top: number, width = 80): Box => ({ left, right: left + width, top, bottom: top + 16 });

const cover = (a: Box, b: Box) =>
  Math.min(a.right, b.right) > Math.max(a.left, b.left) && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > 3;

test("what stands alone stays, the later one of two moves by a line", () => {
  const [first, second, alone] = [
    new Letters(at(100, 100), true),
    new Letters(at(120, 104), true),
    new Letters(at(400, 100), true),
  ];
  placed(picture([first, second, alone], []));
  expect([first.by, alone.by]).toEqual([0, 0]);
  expect(Math.abs(second.by)).toBe(13);
  expect(cover(first.now, second.now)).toBe(false);
});

test("it comes back once there is room", () => {
  const [first, second] = [new Letters(at(100, 100), true), new Letters(at(120, 104), true)];
  placed(picture([first, second], []));
  expect(second.by).not.toBe(0);
  placed(picture([second], []));
  expect(second.by).toBe(0);
});

test("any labels cover neither each other nor what is fixed, stay inside, and go only where there is no place", () => {
  const box = fc
    .tuple(fc.integer({ min: 0, max: 500 }), fc.integer({ min: 0, max: 284 }))
    .map(([left, top]) => at(left, top));
  fc.assert(
    fc.property(fc.array(box, { maxLength: 25 }), fc.array(box, { maxLength: 6 }), (movable, fixed) => {
      const [labels, others] = [movable.map((b) => new Letters(b, true)), fixed.map((b) => new Letters(b, false))];
      placed(picture(labels, others));
      const shown = labels.filter(({ style }) => style.visibility !== "hidden");
      shown.forEach((label, i) => {
        for (const other of [...others, ...shown.slice(0, i)]) expect(cover(label.now, other.now)).toBe(false);
        expect(label.now.top).toBeGreaterThanOrEqual(-1);
        expect(label.now.bottom).toBeLessThanOrEqual(301);
      });
      // Hidden: at all seven places something is in the way, or the picture ends.
      for (const [i, label] of labels.entries()) {
        if (label.style.visibility !== "hidden") continue;
        const before = labels.slice(0, i).filter(({ style }) => style.visibility !== "hidden");
        const own = movable[i] as Box;
        for (const lines of [0, 1, -1, 2, -2, 3, -3]) {
          const there = { ...own, top: own.top + 13 * lines, bottom: own.bottom + 13 * lines };
          const free =
            there.top >= -1 && there.bottom <= 301 && ![...others, ...before].some((other) => cover(there, other.now));
          expect(free).toBe(false);
        }
      }
    }),
  );
});
