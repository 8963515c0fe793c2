/** Letters against what they stand on, by WCAG 2.2 (relative luminance and contrast ratio), from the tokens themselves. */
import { readFileSync } from "node:fs";

import { describe, expect, it } from "vitest";

const text = readFileSync(new URL("./tokens.css", import.meta.url), "utf8");
// The font comes first.
const [, light = "", dark = ""] = text.split("}");

function colour(theme: string, name: string): string {
  const found = new RegExp(`--${name}: #([0-9a-f]{6});`).exec(theme)?.[1];
  if (!found) throw new Error(`--${name} is not there`);
  return found;
}

function luminance(hex: string): number {
  const [r = 0, g = 0, b = 0] = [0, 2, 4]
    .map((at) => parseInt(hex.slice(at, at + 2), 16) / 255)
    .map((c) => (c <= 0.04045 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4));
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}

function contrast(one: string, other: string): number {
  const [low = 0, high = 0] = [luminance(one), luminance(other)].sort((a, b) => a - b);
  return (high + 0.05) / (low + 0.05);
}

describe.each([
  ["light", light],
  ["dark", dark],
])("letters when it is %s", (_, theme) => {
  it.each([
    ["mute", "paper"],
    ["mute", "panel"],
    // Numbers that are measured anew, in the row of the value that is heard.
    ["mute", "spotlight"],
    ["ink", "spotlight"],
    ["after", "paper"],
    ["gain", "paper"],
    ["difference", "paper"],
    ["clip", "paper"],
  ])("%s on %s has 4.5 : 1 at least", (letters, ground) => {
    expect(contrast(colour(theme, letters), colour(theme, ground))).toBeGreaterThanOrEqual(4.5);
  });

  it("black on white is 21 : 1", () => {
    expect(contrast("000000", "ffffff")).toBeCloseTo(21);
  });
});
