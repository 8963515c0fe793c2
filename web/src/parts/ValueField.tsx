/** The value of a parameter as text; typed values take units ("1.2k", "80 ms", "-6", "inf"). */
import { useState } from "react";

import { type Control } from "../core/core";
import { sentenceOf } from "../core/faults";
import classes from "./value.module.css";

interface Props {
  /** What it is called, before "typed value". */
  label: string;
  control: Control;
  value: number;
  onChange: (value: number) => void;
}

export function ValueField({ label, control, value, onChange }: Props) {
  const parse = (typed: string) => control.parse(typed);
  return <Typed name={`${label}, typed value`} written={control.text(value)} parse={parse} onChange={onChange} />;
}

/** The same value the second way, where there is one: the note of a frequency, the octaves of a Q. */
export function AsideField({ label, control, value, onChange }: Props) {
  const written = control.aside(value);
  if (written === undefined) return null;
  const parse = (typed: string) => control.parseAside(typed);
  const name = written.endsWith("oct") ? "in octaves" : "as a note";
  return <Typed name={`${label} ${name}`} written={written} parse={parse} onChange={onChange} aside />;
}

interface TypedProps {
  name: string;
  written: string;
  parse: (typed: string) => number;
  onChange: (value: number) => void;
  aside?: boolean;
}

function Typed({ name, written, parse, onChange, aside }: TypedProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);

  const leave = () => {
    setTyped(null);
    setRefusal(null);
  };
  const take = () => {
    if (typed === null || typed === written) return leave();
    try {
      onChange(parse(typed));
      leave();
    } catch (error) {
      setRefusal(sentenceOf(error));
    }
  };

  return (
    <>
      <input
        className={classes.field}
        data-aside={aside || undefined}
        aria-label={name}
        aria-invalid={refusal !== null}
        value={typed ?? written}
        onFocus={(event) => event.target.select()}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") {
            take();
            // Whoever types on types another value.
            const field = event.currentTarget;
            requestAnimationFrame(() => field === document.activeElement && field.select());
          }
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
