/** The keys of everything that slides (WAI-ARIA slider pattern): parameters, bands, reading lines, the ends of a loop. */
import type { KeyboardEvent } from "react";

import type { Control } from "../core/core";

/** What a key asks for. */
export interface Asked {
  /** Steps to the right. */
  along: number;
  /** Steps up. */
  up: number;
  /** Far steps. */
  pages: number;
  /** The start (0) or the end (1). */
  end: 0 | 1 | null;
}

const NOTHING: Asked = { along: 0, up: 0, pages: 0, end: null };

const KEYS: Record<string, Asked> = {
  ArrowRight: { ...NOTHING, along: 1 },
  ArrowLeft: { ...NOTHING, along: -1 },
  ArrowUp: { ...NOTHING, up: 1 },
  ArrowDown: { ...NOTHING, up: -1 },
  PageUp: { ...NOTHING, pages: 1 },
  PageDown: { ...NOTHING, pages: -1 },
  Home: { ...NOTHING, end: 0 },
  End: { ...NOTHING, end: 1 },
};

/** What a key asks of something that slides; none for other keys. */
export function asked(event: KeyboardEvent): Asked | null {
  return KEYS[event.key] ?? null;
}

/** The same of what slides along one axis only: keys up and down scroll the page there. */
export function askedAlong(event: KeyboardEvent): Asked | null {
  const wanted = asked(event);
  return wanted && wanted.up === 0 ? wanted : null;
}

/** Where a key moves a value to; none for other keys. Shift makes steps finer, Delete goes back to where it began. */
export function moved(event: KeyboardEvent, control: Control, value: number, initial: number): number | null {
  if (event.key === "Delete") return initial;
  const wanted = asked(event);
  if (!wanted) return null;
  if (wanted.end !== null) return control.value(wanted.end);
  return control.nudged(value, (event.shiftKey ? 0.1 : 1) * (wanted.along + wanted.up + 10 * wanted.pages));
}
