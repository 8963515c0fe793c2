/** A slider over the range of a parameter (WAI-ARIA slider pattern). The core lays the range along it. */
import { useMove } from "@mantine/hooks";
import type { KeyboardEvent } from "react";

import type { Control } from "../core/core";
import { moved } from "./sliderKeys";
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
  const { ref } = useMove(({ x }) => onChange(control.value(x)));

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
