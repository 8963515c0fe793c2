/** A line of a picture that can be taken hold of: it moves a parameter (WAI-ARIA slider pattern). */
import { type KeyboardEvent, type PointerEvent, useRef } from "react";

import type { Control } from "../core/core";
import { moved } from "../parts/sliderKeys";
import type { Scales } from "./PlotFrame";
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
  const held = useRef(false);
  const place = toAxis(value);
  const [left, top] = along === "y" ? [s.left, Math.min(s.bottom, Math.max(s.top, s.y(place))) - 12] : [Math.min(s.right, Math.max(s.left, s.x(place))) - 12, s.top];
  const size = along === "y" ? { width: s.right - s.left, height: 24 } : { width: 24, height: s.bottom - s.top };

  const move = (event: PointerEvent) => {
    const box = element.current?.parentElement?.getBoundingClientRect();
    if (!held.current || !box) return;
    const at = along === "y" ? s.y.invert(event.clientY - box.top) : s.x.invert(event.clientX - box.left);
    // The core rounds to what is written, and keeps within the range.
    onChange(control.value(control.position(fromAxis(at))));
  };
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
      onPointerDown={(event) => {
        if (event.button !== 0) return;
        event.stopPropagation();
        event.currentTarget.setPointerCapture(event.pointerId);
        held.current = true;
      }}
      onPointerMove={move}
      onPointerUp={() => (held.current = false)}
      onPointerCancel={() => (held.current = false)}
      onDoubleClick={() => onChange(initial)}
      onKeyDown={onKey}
    />
  );
}
