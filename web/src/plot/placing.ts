/**
 * Keeps the labels of a picture apart. Those of axes and panes stand where they are; those that stand on the data, and tags, move up
 * or down by a line or more until they cover no other one, and go where there is no such place. Earlier ones have the better place.
 */

import classes from "./plot.module.css";

/** What moves: letters that stand on the data, and tags. */
const MOVABLE = `.${classes.direct}, .${classes.label}`;
/** How far a label may move, in heights of its own. */
const MOVES = [0, 1, -1, 2, -2, 3, -3];
/** Labels may touch by so much, px: boxes of letters have air above and under them. */
const AIR = 3;

interface Box {
  left: number;
  right: number;
  top: number;
  bottom: number;
}

function cover(a: Box, b: Box): boolean {
  return (
    Math.min(a.right, b.right) - Math.max(a.left, b.left) > 0 &&
    Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > AIR
  );
}

/** By how much a label has been moved, px, and null where it is hidden. */
const moved = new WeakMap<SVGGraphicsElement, number | null>();

const waiting = new Set<SVGSVGElement>();

/**
 * Places the labels of a picture when the next frame is made, once, whatever changes until then: to read where letters are, the page
 * has to be laid out, which that frame does anyway.
 */
export function placeApart(svg: SVGSVGElement): void {
  if (waiting.size === 0) {
    requestAnimationFrame(() => {
      waiting.forEach(place);
      waiting.clear();
    });
  }
  waiting.add(svg);
}

/** Places what moves among all other letters of a picture. */
function place(svg: SVGSVGElement): void {
  const movable = Array.from(svg.querySelectorAll<SVGGraphicsElement>(MOVABLE));
  if (movable.length === 0) return;
  const all = svg.getBoundingClientRect();
  const taken: Box[] = Array.from(svg.querySelectorAll("text"))
    .filter((text) => !text.closest(MOVABLE))
    .map((text) => text.getBoundingClientRect());
  const places = movable.map((label): number | null => {
    const now = label.getBoundingClientRect();
    const { left, right, height } = now;
    // Where it would be if it had not been moved.
    const [top, bottom] = [now.top, now.bottom].map((edge) => edge - (moved.get(label) ?? 0)) as [number, number];
    for (const move of MOVES) {
      const by = Math.round(move * (height - AIR));
      const box = { left, right, top: top + by, bottom: bottom + by };
      if (box.top < all.top - 1 || box.bottom > all.bottom + 1 || taken.some((other) => cover(box, other))) continue;
      taken.push(box);
      return by;
    }
    return null;
  });
  // Written at last, and only where it is another place: what is read after that would be laid out anew.
  movable.forEach((label, i) => {
    const by = places[i] ?? null;
    if (by === (moved.has(label) ? moved.get(label) : 0)) return;
    moved.set(label, by);
    label.style.visibility = by === null ? "hidden" : "";
    label.style.translate = by ? `0 ${by}px` : "";
  });
}
