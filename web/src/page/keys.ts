/** The keys of the bench. The list that is shown is made from this table. */
import { getHotkeyHandler } from "@mantine/hooks";
import { useEffect } from "react";

export interface Key {
  /** As Mantine's hotkeys are written. */
  hotkey: string;
  /** As it stands on the keyboard. */
  shown: string;
  does: string;
  act: () => void;
}

/** What keeps its own keys: text fields take letters, buttons and switches take the space bar. */
function takesKeys(target: EventTarget | null, key: string): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.closest("input:not([type=checkbox]):not([type=radio]), textarea, select, [contenteditable], dialog")) return true;
  return key === " " && target.closest("button, input, [role=tab]") !== null;
}

export function useKeys(keys: Key[]): void {
  useEffect(() => {
    const handle = getHotkeyHandler(keys.map(({ hotkey, act }) => [hotkey, act]));
    const onKey = (event: KeyboardEvent) => {
      const combined = event.ctrlKey || event.metaKey;
      if (combined || !takesKeys(event.target, event.key)) handle(event);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
