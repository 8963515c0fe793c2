/** The keys of every slider of a parameter (WAI-ARIA slider pattern). */
import type { KeyboardEvent } from "react";

import type { Control } from "../core/core";

/** Where a key moves a value to; none for other keys. Shift makes steps finer, Delete goes back to where it began. */
export function moved(event: KeyboardEvent, control: Control, value: number, initial: number): number | null {
  const fine = event.shiftKey ? 0.1 : 1;
  const moves: Record<string, () => number> = {
    ArrowRight: () => control.nudged(value, fine),
    ArrowUp: () => control.nudged(value, fine),
    ArrowLeft: () => control.nudged(value, -fine),
    ArrowDown: () => control.nudged(value, -fine),
    PageUp: () => control.nudged(value, 10 * fine),
    PageDown: () => control.nudged(value, -10 * fine),
    Home: () => control.value(0),
    End: () => control.value(1),
    Delete: () => initial,
  };
  return moves[event.key]?.() ?? null;
}
