/** What is chosen among the points of a curve or the placed reflections, as typed values; and the buttons to add and to remove one. */
import { Button } from "@mantine/core";

import type { Control } from "../../../core/core";
import { ValueField } from "../../../parts/ValueField";
import classes from "./design.module.css";

export interface Typed {
  label: string;
  control: Control;
  value: number;
  onChange: (value: number) => void;
}

interface Props {
  /** What one of them is called. */
  what: "point" | "reflection";
  index: number;
  count: number;
  most: number;
  fields: Typed[];
  onChoose: (index: number) => void;
  onAdd: () => void;
  /** None where one has to stay. */
  onRemove: (() => void) | null;
}

export function PointFields({ what, index, count, most, fields, onChoose, onAdd, onRemove }: Props) {
  const name = what === "point" ? "Point" : "Reflection";
  return (
    <div className={classes.fields} role="group" aria-label={`Chosen ${what}`}>
      {count > 0 && (
        <>
          <Button
            size="compact-sm"
            variant="default"
            disabled={index === 0}
            aria-label={`${name} before`}
            onClick={() => onChoose(index - 1)}
          >
            {"\u2190"}
          </Button>
          <span>{`${name} ${index + 1} of ${count}`}</span>
          <Button
            size="compact-sm"
            variant="default"
            disabled={index >= count - 1}
            aria-label={`Next ${what}`}
            onClick={() => onChoose(index + 1)}
          >
            {"\u2192"}
          </Button>
          {fields.map(({ label, control, value, onChange }) => (
            <label key={label} className={classes.field}>
              <span>{label}</span>
              <ValueField label={label} control={control} value={value} onChange={onChange} />
            </label>
          ))}
        </>
      )}
      <Button size="compact-sm" variant="default" disabled={count >= most} onClick={onAdd}>
        {`Add a ${what}`}
      </Button>
      {onRemove && (
        <Button size="compact-sm" variant="default" onClick={onRemove}>
          {`Remove the ${what}`}
        </Button>
      )}
    </div>
  );
}
