/** A slider over the range of a parameter (WAI-ARIA slider pattern). The core lays the range along it. */
import { type KeyboardEvent, useRef } from "react";

import type { Control } from "../core/core";
import { moved } from "./sliderKeys";
import { useDrag, useWheel } from "./sliding";
import classes from "./value.module.css";

interface Props {
  label: string;
  control: Control;
  value: number;
  /** Where a double-click or Delete goes back to. */
  initial: number;
  onChange: (value: number) => void;
  onFocus?: () => void;
}

export function ValueSlider({ label, control, value, initial, onChange, onFocus }: Props) {
  const position = control.position(value);
  const ref = useRef<HTMLDivElement>(null);
  // Looked up once: while a hand moves it, the page is not laid out for every step.
  const track = useRef<DOMRect | null>(null);
  const follow = ({ x }: { x: number }) => {
    const box = track.current;
    if (box) onChange(control.value(Math.min(1, Math.max(0, (x - box.left) / box.width))));
  };
  const grab = (at: { x: number; y: number }) => {
    track.current = ref.current?.getBoundingClientRect() ?? null;
    follow(at);
  };
  const drag = useDrag(follow, grab);
  // Where the page is scrolled over it, it stays as it is: the wheel counts once it has been taken hold of.
  useWheel(
    ref,
    (slider) => slider === document.activeElement,
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
      ref={ref}
      className={classes.slider}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(position * 100)}
      aria-valuetext={control.text(value)}
      {...drag}
      onKeyDown={onKey}
      onDoubleClick={() => onChange(initial)}
      onFocus={onFocus}
    >
      <div className={classes.track}>
        <div className={classes.filled} style={{ transform: `translateX(calc(${(position - 1) * 100}cqi - 9px))` }} />
      </div>
      <div className={classes.thumb} style={{ transform: `translateX(${position * 100}cqi)` }} />
    </div>
  );
}
