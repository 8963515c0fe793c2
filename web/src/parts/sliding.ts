/** What a pointer and its wheel do to everything that slides. */
import { type PointerEvent, type RefObject, useEffect, useRef } from "react";

/** With Shift held, moves are finer by this. */
export const FINE = 0.15;

/**
 * Handlers of a drag. They say where the pointer would be if it had moved so far as it counts: with Shift held, less than it did.
 */
export function useDrag(onAt: (at: { x: number; y: number }) => void, grab?: (at: { x: number; y: number }) => void) {
  const held = useRef<{ pointer: { x: number; y: number }; at: { x: number; y: number } } | null>(null);
  const letGo = () => {
    held.current = null;
  };
  return {
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return;
      event.stopPropagation();
      event.currentTarget.setPointerCapture(event.pointerId);
      const pointer = { x: event.clientX, y: event.clientY };
      held.current = { pointer, at: pointer };
      grab?.(pointer);
    },
    onPointerMove: (event: PointerEvent) => {
      if (!held.current) return;
      const { pointer, at } = held.current;
      const by = event.shiftKey ? FINE : 1;
      const next = { x: at.x + by * (event.clientX - pointer.x), y: at.y + by * (event.clientY - pointer.y) };
      held.current = { pointer: { x: event.clientX, y: event.clientY }, at: next };
      onAt(next);
    },
    onPointerUp: letGo,
    onPointerCancel: letGo,
  };
}

/** Turns of the wheel over an element, in steps up, finer with Shift; `takes` says whether they count or scroll the page. */
export function useWheel(
  element: RefObject<HTMLElement | null>,
  takes: (element: HTMLElement) => boolean,
  onTurn: (steps: number) => void,
): void {
  // React listens to wheels passively, so that the page would scroll as well.
  useEffect(() => {
    const target = element.current;
    const turn = (event: WheelEvent) => {
      if (!target || !takes(target)) return;
      event.preventDefault();
      // With Shift held, most browsers turn it sideways.
      const by = event.deltaY || event.deltaX;
      onTurn((by < 0 ? 1 : -1) * (event.shiftKey ? FINE : 1));
    };
    target?.addEventListener("wheel", turn, { passive: false });
    return () => target?.removeEventListener("wheel", turn);
  });
}
