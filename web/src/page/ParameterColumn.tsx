/** The parameters of the chosen stage; the one in the spotlight opens and explains itself. */
import { memo, useState } from "react";

import { valueOf, withStage, withValue, withView } from "../bench/edits";
import { useBench, useChosenStage, usePart } from "../bench/store";
import { effectControl, effectOf, paramsOf, text } from "../core/core";
import type { Effect } from "../generated/types/Effect";
import type { Param } from "../generated/types/Param";
import type { StageDocument } from "../generated/types/StageDocument";
import { useMeasured } from "../measuring/measured";
import { ValueField } from "../parts/ValueField";
import { ValueSlider } from "../parts/ValueSlider";
import { BendPlot } from "../pictures/BendPlot";
import classes from "./parameters.module.css";

export function ParameterColumn() {
  const stage = useChosenStage();
  const view = usePart((d) => d.view);
  if (!stage) {
    return (
      <section className={classes.column} aria-label="Parameters">
        <p className={classes.empty}>The path has no stage, so there is nothing to set.</p>
      </section>
    );
  }
  const effect = effectOf(stage);
  const params = paramsOf(effect);
  return (
    <section className={classes.column} aria-label={`Parameters of the ${effect.label.toLowerCase()}`}>
      <h2 className={classes.heading}>
        {effect.label}: what each parameter bends
      </h2>
      {params.map((param) => (
        <Row
          key={param.id}
          effect={effect}
          param={param}
          value={valueOf(stage, param)}
          index={view.stage}
          open={view.spotlight === param.id}
        />
      ))}
    </section>
  );
}

interface RowProps {
  effect: Effect;
  param: Param;
  value: number;
  index: number;
  open: boolean;
}

/** Drawn anew only when its own value moves: the pictures follow the hand, so nothing else may take time. */
const Row = memo(function Row({ effect, param, value, index, open }: RowProps) {
  const edit = useBench((s) => s.edit);
  const look = useBench((s) => s.look);
  const measured = useMeasured((m) => (param.outcome ? m.report?.outcomes[index]?.[param.outcome.id] : undefined));
  const [reading, setReading] = useState<string | null>(null);
  const control = effectControl(effect.id, param.id);
  const set = (next: number, merge: boolean) => {
    if (next === value) return;
    const label = `${param.label} ${control.text(next)}`;
    const change = (s: StageDocument) => withValue(s, param, next);
    edit(label, (d) => withStage(d, index, change), merge ? `${index} ${param.id}` : undefined);
  };
  const toggle = () =>
    look((d) => withView(d, open ? { spotlight: null } : { spotlight: param.id, ...(param.picture && { picture: param.picture }) }));

  const { outcome } = param;
  return (
    <div className={classes.row} data-open={open || undefined}>
      <div className={classes.beside}>
        <div className={classes.setting}>
          <div className={classes.head}>
            <button type="button" className={classes.name} aria-expanded={open} onClick={toggle}>
              {param.label}
            </button>
            <ValueField label={param.label} control={control} value={value} onChange={(next) => set(next, false)} />
          </div>
          <ValueSlider
            label={param.label}
            control={control}
            value={value}
            initial={param.default}
            onChange={(next) => set(next, true)}
          />
        </div>
        {outcome && (
          <BendPlot
            stage={index}
            param={param.id}
            label={param.label}
            outcome={outcome}
            control={control}
            value={value}
            onPick={(next) => set(next, false)}
            onRead={setReading}
          />
        )}
      </div>
      {outcome && (
        <div className={classes.outcome}>
          bends: {outcome.label} <b>{reading ?? (measured === undefined ? "" : text(outcome.unit, measured ?? NaN))}</b>
        </div>
      )}
      {open && <Explanation param={param} control={control.text.bind(control)} onUse={(next) => set(next, false)} />}
    </div>
  );
});

interface ExplanationProps {
  param: Param;
  control: (value: number) => string;
  onUse: (value: number) => void;
}

function Explanation({ param, control, onUse }: ExplanationProps) {
  const [more, setMore] = useState(false);
  return (
    <div className={classes.explanation}>
      <p>{param.what}</p>
      <p>
        <b>Listen:</b> {param.listen}
      </p>
      {more && (
        <>
          <p>
            <b>Look:</b> {param.look}
          </p>
          <p>
            <b>Often mistaken:</b> {param.mistake}
          </p>
          <p>
            <b>Usual:</b> {param.usual.map((usual) => `${control(usual.value)} for ${usual.purpose}`).join("; ")}.
          </p>
        </>
      )}
      <div className={classes.usual}>
        {param.usual.map((usual) => (
          <button key={usual.value} type="button" onClick={() => onUse(usual.value)} title={`Usual for ${usual.purpose}`}>
            {control(usual.value)}
          </button>
        ))}
        <button type="button" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : "More"}
        </button>
      </div>
    </div>
  );
}
