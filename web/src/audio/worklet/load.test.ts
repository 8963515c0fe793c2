import { expect, test } from "vitest";

import { Load } from "./load";

const BLOCK_MS = 128 / 48;

/** What is said over so many blocks that take so long each. */
function said(load: Load, blocks: number, took: (k: number) => number): boolean[] {
  return Array.from({ length: blocks }, (_, k) => load.isTooMuch(took(k), BLOCK_MS));
}

test("it is said once in two seconds, and only over 60 % of the time", () => {
  // The clock counts whole milliseconds: of blocks that take 1.7 ms, most read 2 and some 1.
  const busy = said(new Load(), 1500, (k) => (k % 10 < 7 ? 2 : 1));
  expect(busy.flatMap((is, k) => (is ? [k] : []))).toEqual([749, 1499]);
  const easy = said(new Load(), 1500, (k) => (k % 10 < 5 ? 2 : 1));
  expect(easy.every((is) => !is)).toBe(true);
});

test("two seconds do not count for the next two", () => {
  const load = new Load();
  expect(said(load, 750, () => BLOCK_MS).at(-1)).toBe(true);
  expect(said(load, 750, () => 0).some((is) => is)).toBe(false);
});
