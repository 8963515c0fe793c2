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

/** Behind a dialog, a drawer that covers the page or a menu, the page is asleep. */
const asleep = () => document.querySelector(".mantine-Overlay-root, [role=menu]") !== null;

/**
 * What keeps its own keys: text fields take letters; buttons and switches take the space bar, but only where
 * they were reached by keys. After a click on one, the space bar still plays.
 */
function takesKeys({ target, key, ctrlKey, metaKey }: KeyboardEvent): boolean {
  if (!(target instanceof HTMLElement)) return false;
  const writes = target.closest(
    "input:not([type=checkbox]):not([type=radio]):not([role=slider]), textarea, [contenteditable]",
  );
  // What is edited beside the bench has an undo of its own; what is a part of it has the bench's.
  if (ctrlKey || metaKey)
    return (
      key.toLowerCase() === "z" &&
      target.closest("[role=dialog]") !== null &&
      target.closest("[data-of-bench]") === null
    );
  if (writes || target.closest("select")) return true;
  return (
    key === " " &&
    target.matches(":focus-visible") &&
    target.closest("button, input, [role=tab], summary, label") !== null
  );
}

export function useKeys(keys: Key[]): void {
  useEffect(() => {
    const handle = getHotkeyHandler(keys.map(({ hotkey, act }) => [hotkey, act]));
    const onKey = (event: KeyboardEvent) => {
      // What is being dragged by keys, for one, has taken it already.
      if (event.defaultPrevented || asleep() || takesKeys(event)) return;
      // The space bar would press what was clicked last.
      if (event.key === " ") event.preventDefault();
      handle(event);
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
}
