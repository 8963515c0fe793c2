/** The value of a parameter as text; typed values take units ("1.2k", "80 ms", "-6", "inf"). */
import { useState } from "react";

import { type Control } from "../core/core";
import { sentenceOf } from "../core/faults";
import classes from "./value.module.css";

interface Props {
  label: string;
  control: Control;
  value: number;
  onChange: (value: number) => void;
}

export function ValueField({ label, control, value, onChange }: Props) {
  const [typed, setTyped] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const shown = typed ?? control.text(value);

  const leave = () => {
    setTyped(null);
    setRefusal(null);
  };
  const take = () => {
    if (typed === null || typed === control.text(value)) return leave();
    try {
      onChange(control.parse(typed));
      leave();
    } catch (error) {
      setRefusal(sentenceOf(error));
    }
  };

  return (
    <>
      <input
        className={classes.field}
        aria-label={`${label}, typed value`}
        aria-invalid={refusal !== null}
        value={shown}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") leave();
        }}
      />
      {refusal && (
        <p className={classes.refusal} role="alert">
          {refusal}
        </p>
      )}
    </>
  );
}
