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
  return Math.min(a.right, b.right) - Math.max(a.left, b.left) > 0 && Math.min(a.bottom, b.bottom) - Math.max(a.top, b.top) > AIR;
}

/** Places what moves among all other letters of a picture. */
export function placeApart(svg: SVGSVGElement): void {
  const movable = Array.from(svg.querySelectorAll<SVGGraphicsElement>(MOVABLE));
  if (movable.length === 0) return;
  for (const label of movable) {
    label.style.translate = "";
    label.style.visibility = "";
  }
  const all = svg.getBoundingClientRect();
  const taken: Box[] = Array.from(svg.querySelectorAll("text"))
    .filter((text) => !text.closest(MOVABLE))
    .map((text) => text.getBoundingClientRect());
  const places = movable.map((label): number | null => {
    const { left, right, top, bottom, height } = label.getBoundingClientRect();
    for (const move of MOVES) {
      const by = Math.round(move * (height - AIR));
      const box = { left, right, top: top + by, bottom: bottom + by };
      if (box.top < all.top - 1 || box.bottom > all.bottom + 1 || taken.some((other) => cover(box, other))) continue;
      taken.push(box);
      return by;
    }
    return null;
  });
  // Written at last: every box that is read after it would be laid out anew.
  movable.forEach((label, i) => {
    const by = places[i];
    if (by === null) label.style.visibility = "hidden";
    else if (by) label.style.translate = `0 ${by}px`;
  });
}
