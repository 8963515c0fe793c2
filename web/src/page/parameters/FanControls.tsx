/** Opens the fan of the parameter in the spotlight, and says which values it has. */
import { NativeSelect } from "@mantine/core";
import { useState } from "react";

import { withFan } from "../../bench/edits";
import { useFanHeard } from "../../bench/fanHeard";
import { useBench, usePart } from "../../bench/store";
import type { Control } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import { fromFile, toFile } from "../../core/numbers";
import type { FanDocument } from "../../generated/types/FanDocument";
import type { Param } from "../../generated/types/Param";
import { useMeasured } from "../../measuring/measured";
import classes from "./parameters.module.css";

const FRESH: FanDocument = { count: 5, values: null, same: null };

interface Props {
  param: Param;
  control: Control;
  /** The other parameters of the effect, for "at the same". */
  others: Param[];
}

export function FanControls({ param, control, others }: Props) {
  const fan = usePart((d) => d.view.fan);
  const look = useBench((s) => s.look);
  const choose = useFanHeard((s) => s.choose);
  const set = (next: FanDocument | null) => {
    choose(null);
    look((d) => withFan(d, next));
  };
  return (
    <>
      {/* One button for both, so that it keeps the focus. */}
      <button type="button" aria-expanded={fan !== null} onClick={() => set(fan ? null : FRESH)}>
        {fan ? "Close the fan" : "Open the fan"}
      </button>
      {fan && <OpenFan param={param} control={control} others={others} fan={fan} onChange={set} />}
    </>
  );
}

interface OpenProps extends Props {
  fan: FanDocument;
  onChange: (fan: FanDocument) => void;
}

function OpenFan({ param, control, others, fan, onChange: set }: OpenProps) {
  return (
    <div className={classes.fan} role="group" aria-label={`Fan of ${param.label}`}>
      <Values param={param} control={control} fan={fan} onChange={set} />
      <div className={classes.fanRow}>
        <NativeSelect
          size="xs"
          aria-label="How many values"
          value={fan.values?.length ?? fan.count}
          data={Array.from({ length: 8 }, (_, i) => ({ value: String(i + 2), label: `${i + 2} values` }))}
          onChange={({ target }) => set({ ...fan, count: Number(target.value), values: null })}
        />
        <NativeSelect
          size="xs"
          aria-label="At the same amount of"
          value={fan.same ?? ""}
          data={[
            { value: "", label: "all else as it stands" },
            ...others.map((other) => ({
              value: other.id,
              label: `same ${other.outcome?.label ?? ""} (${other.label})`,
            })),
          ]}
          onChange={({ target }) => set({ ...fan, same: target.value || null })}
        />
      </div>
    </div>
  );
}

interface ValuesProps {
  param: Param;
  control: Control;
  fan: FanDocument;
  onChange: (fan: FanDocument) => void;
}

/** The values as one line of text, to be edited; proposed by the core until then. */
function Values({ param, control, fan, onChange }: ValuesProps) {
  const open = useMeasured((m) => (m.fan?.param === param.id ? m.fan : null));
  const [typed, setTyped] = useState<string | null>(null);
  const [refusal, setRefusal] = useState<string | null>(null);
  const values = fan.values ?? open?.blades.map(({ row }) => row.value) ?? [];
  const shown = typed ?? values.map((value) => control.text(fromFile(value, param.default))).join("; ");
  const take = () => {
    if (typed === null) return;
    try {
      const parts = typed
        .split(/[;]/)
        .map((part) => part.trim())
        .filter(Boolean);
      if (parts.length < 2 || parts.length > 9) throw new Error("A fan has 2 to 9 values, separated by semicolons");
      onChange({ ...fan, values: parts.map((part) => toFile(control.parse(part))) });
      setTyped(null);
      setRefusal(null);
    } catch (error) {
      setRefusal(sentenceOf(error));
    }
  };
  return (
    <>
      <input
        className={classes.values}
        aria-label={`Values of the fan of ${param.label}, separated by semicolons`}
        aria-invalid={refusal !== null}
        value={shown}
        onChange={({ target }) => setTyped(target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key === "Enter") take();
          if (event.key === "Escape") setTyped(null);
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
