/** A line of a picture that can be taken hold of: it moves a parameter (WAI-ARIA slider pattern). */
import { type KeyboardEvent, useRef } from "react";

import type { Control } from "../core/core";
import { moved } from "../parts/sliderKeys";
import { useDrag, useWheel } from "../parts/sliding";
import type { Scales } from "./scales";
import classes from "./plot.module.css";

export interface HandleOf {
  label: string;
  control: Control;
  value: number;
  /** Whether it lies on the horizontal or on the upright axis. */
  along: "x" | "y";
  /** Where the value lies on that axis, and back. */
  toAxis?: (value: number) => number;
  fromAxis?: (place: number) => number;
  initial: number;
  onChange: (value: number) => void;
}

const same = (v: number) => v;

interface Props {
  handle: HandleOf;
  scales: Scales;
}

export function Handle({ handle, scales: s }: Props) {
  const { label, control, value, along, toAxis = same, fromAxis = same, initial, onChange } = handle;
  const element = useRef<HTMLDivElement>(null);
  const place = toAxis(value);
  const [left, top] =
    along === "y"
      ? [s.left, Math.min(s.bottom, Math.max(s.top, s.y(place))) - 12]
      : [Math.min(s.right, Math.max(s.left, s.x(place))) - 12, s.top];
  const size = along === "y" ? { width: s.right - s.left, height: 24 } : { width: 24, height: s.bottom - s.top };

  // Looked up once: while a hand moves it, the page is not laid out for every step.
  const picture = useRef<DOMRect | null>(null);
  const drag = useDrag(
    (pointer) => {
      const box = picture.current;
      if (!box) return;
      const at = along === "y" ? s.y.invert(pointer.y - box.top) : s.x.invert(pointer.x - box.left);
      // The core rounds to what is written, and keeps within the range.
      onChange(control.value(control.position(fromAxis(at))));
    },
    () => {
      picture.current = element.current?.parentElement?.getBoundingClientRect() ?? null;
    },
  );
  useWheel(
    element,
    (line) => line === document.activeElement,
    (steps) => onChange(control.nudged(value, 2 * steps)),
  );
  const onKey = (event: KeyboardEvent) => {
    const to = moved(event, control, value, initial);
    if (to === null) return;
    event.preventDefault();
    onChange(to);
  };
  return (
    <div
      ref={element}
      className={classes.handle}
      data-along={along}
      style={{ ...size, transform: `translate(${left}px, ${top}px)` }}
      role="slider"
      tabIndex={0}
      aria-label={`${label} in the picture`}
      aria-orientation={along === "y" ? "vertical" : "horizontal"}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * control.position(value))}
      aria-valuetext={control.text(value)}
      {...drag}
      onDoubleClick={() => onChange(initial)}
      onKeyDown={onKey}
    />
  );
}
