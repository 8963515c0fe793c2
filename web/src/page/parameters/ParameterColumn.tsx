/** The parameters of the chosen stage; the one in the spotlight opens and explains itself. */
import { memo, useEffect, useRef, useState } from "react";

import { Button, SegmentedControl, Switch } from "@mantine/core";

import { hasBands } from "../../bench/bands";
import {
  acts,
  afresh,
  isFresh,
  isLinkable,
  pathOf,
  withLinked,
  withPicture,
  withStage,
  withValue,
  withView,
} from "../../bench/edits";
import { valueOf } from "../../core/values";
import { groupsOf, shownGroup, shownParams, useGroups } from "../../bench/groups";
import { useAtLeisure } from "../../bench/hand";
import { useBench, useChosenStage, usePart } from "../../bench/store";
import {
  catalogue,
  type Control,
  effectControl,
  effectOf,
  paramNamed,
  paramsOf,
  signedDb,
  text,
} from "../../core/core";
import { fromFile } from "../../core/numbers";
import type { Effect } from "../../generated/types/Effect";
import type { Param } from "../../generated/types/Param";
import type { StageDocument } from "../../generated/types/StageDocument";
import { useMeasured, useStale } from "../../measuring/measured";
import { ValueChoice } from "../../parts/ValueChoice";
import { AsideField, ValueField } from "../../parts/ValueField";
import { ValueSlider } from "../../parts/ValueSlider";
import { BendPlot } from "../../pictures/bends/BendPlot";
import { BlockDiagram } from "../../pictures/BlockDiagram";
import { BandStrip } from "./BandStrip";
import { EqualControls } from "./EqualControls";
import { FanControls } from "./FanControls";
import { GuideBar } from "./GuideBar";
import { ResonanceList } from "../picture/ResonanceList";
import { SoundChoice } from "./SoundChoice";
import classes from "./parameters.module.css";

export function ParameterColumn() {
  const stage = useAtLeisure(useChosenStage());
  const view = usePart((d) => d.view);
  const groups = useGroups();
  if (!stage) {
    return (
      <section className={classes.column} aria-label="Parameters">
        <p className={classes.empty}>The path has no stage, so there is nothing to set. Add one on the left.</p>
      </section>
    );
  }
  const effect = effectOf(stage);
  const choose = (id: string) => spotlight(paramsOf(effect).find((param) => param.id === id) ?? null);
  const group = shownGroup(effect, view.spotlight, groups.chosen);
  const params = shownParams(effect, view.spotlight, groups.chosen);
  const chooseGroup = (next: string) => chooseGroupOf(effect.id, next);
  return (
    <section className={classes.column} aria-label={`Parameters of the ${effect.label.toLowerCase()}`}>
      <h2 className={classes.heading}>
        {effect.label}: what each parameter bends
        <Afresh label={effect.label} stage={stage} index={view.stage} />
      </h2>
      <BlockDiagram
        label={effect.label.toLowerCase()}
        diagram={effect.diagram}
        spotlight={view.spotlight}
        onChoose={choose}
      />
      <GuideBar effect={effect} stage={stage} index={view.stage} />
      {hasBands(effect) && <BandStrip stage={stage} index={view.stage} group={group} onGroup={chooseGroup} />}
      {hasBands(effect) && group === groupsOf(effect)[0] && <ResonanceList stage={stage} index={view.stage} />}
      {group !== null && !hasBands(effect) && <Groups effect={effect} group={group} />}
      <LinkSwitch stage={stage} index={view.stage} />
      {effect.sounds
        .filter((slot) => params.some((param) => param.group === slot.group))
        .map((slot) => (
          <SoundChoice key={slot.id} index={view.stage} slot={slot} sound={stage.sounds?.[slot.id]} />
        ))}
      {params.map((param) => (
        <Row
          key={`${view.stage} ${param.id}`}
          effect={effect}
          param={param}
          value={valueOf(stage, param)}
          index={view.stage}
          open={view.spotlight === param.id}
          acts={acts(stage, param)}
        />
      ))}
    </section>
  );
}

function chooseGroupOf(effect: string, group: string): void {
  useGroups.getState().choose(effect, group);
  spotlight(null);
}

/** Drawn anew only when another group is shown, and not when a value moves. */
const Groups = memo(function Groups({ effect, group }: { effect: Effect; group: string }) {
  return (
    <div className={classes.groups}>
      <SegmentedControl
        size="xs"
        fullWidth
        aria-label="Group of parameters"
        data={groupsOf(effect)}
        value={group}
        onChange={(next) => chooseGroupOf(effect.id, next)}
      />
    </div>
  );
});

/** Links this stage with the others of its path that move: two in a row then have one rate, and one control for their phase. */
function LinkSwitch({ stage, index }: { stage: StageDocument; index: number }) {
  const linked = usePart((d) => d.view.linked);
  const others = usePart((d) =>
    pathOf(d)
      .stages.flatMap((other, i) => (i !== index && isLinkable(other) ? [`${i + 1} ${effectOf(other).label}`] : []))
      .join(", "),
  );
  const edit = useBench((s) => s.edit);
  if (others === "" || !isLinkable(stage)) return null;
  return (
    <Switch
      size="xs"
      className={classes.linked}
      label={`Linked with ${others}: one rate and shape, starts move together`}
      checked={linked}
      onChange={() => edit(linked ? "Stages let go" : "Stages linked", (d) => withLinked(d, !linked))}
    />
  );
}

interface AfreshProps {
  label: string;
  stage: StageDocument;
  index: number;
}

/** Puts the whole effect back to its defaults. */
function Afresh({ label, stage, index }: AfreshProps) {
  const edit = useBench((s) => s.edit);
  return (
    <Button
      size="compact-sm"
      variant="default"
      disabled={isFresh(stage)}
      title="All values of this effect back to their defaults"
      onClick={() => edit(`${label} at its defaults`, (d) => withStage(d, index, afresh))}
    >
      Defaults
    </Button>
  );
}

/** Puts a parameter in the spotlight, or none: its row opens, and the picture that shows it comes. */
function spotlight(param: Param | null): void {
  useBench
    .getState()
    .look((d) => withPicture(withView(d, { spotlight: param?.id ?? null, fan: null }), param?.picture ?? null));
}

interface RowProps {
  effect: Effect;
  param: Param;
  value: number;
  index: number;
  open: boolean;
  /** Whether it does something as the switches stand. */
  acts: boolean;
}

/** Drawn anew only when its own value moves: the pictures follow the hand, so nothing else may take time. */
const Row = memo(function Row({ effect, param, value, index, open, acts }: RowProps) {
  const edit = useBench((s) => s.edit);
  const measured = useMeasured((m) => (param.outcome ? m.report?.outcomes[index]?.[param.outcome.id] : undefined));
  const [reading, setReading] = useState<string | null>(null);
  const control = effectControl(effect.id, param.id);
  const set = (next: number, merge: boolean) => {
    if (next === value) return;
    const label = `${param.label} ${control.text(next)}`;
    const change = (s: StageDocument) => withValue(s, param, next);
    edit(label, (d) => withStage(d, index, change), merge ? `${index} ${param.id}` : undefined);
  };
  const toggle = () => spotlight(open ? null : param);
  const row = useRef<HTMLDivElement>(null);
  const isExplained = useBench((s) => open && s.guided !== null);
  useEffect(() => {
    if (isExplained) row.current?.scrollIntoView({ block: "nearest" });
  }, [isExplained]);

  const { outcome } = param;
  return (
    <div ref={row} className={classes.row} data-open={open || undefined}>
      <div className={classes.beside}>
        <div className={classes.setting}>
          <div className={classes.head}>
            <button type="button" className={classes.name} aria-expanded={open} onClick={toggle}>
              {param.label}
            </button>
            {param.choices.length === 0 && (
              <ValueField label={param.label} control={control} value={value} onChange={(next) => set(next, false)} />
            )}
          </div>
          {param.choices.length > 0 ? (
            <ValueChoice
              label={param.label}
              choices={param.choices}
              value={value}
              onChange={(next) => set(next, false)}
            />
          ) : (
            <ValueSlider
              label={param.label}
              control={control}
              value={value}
              initial={fromFile(param.default, 0)}
              onChange={(next) => set(next, true)}
            />
          )}
        </div>
        {outcome && acts && (
          <div data-shows>
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
          </div>
        )}
      </div>
      {param.id === catalogue.output_param && (
        <Compensate control={control} value={value} onUse={(next) => set(next, false)} />
      )}
      {!acts && <div className={classes.outcome}>{waitsFor(effect, param)}</div>}
      {outcome && acts && (
        <div className={classes.foot}>
          <div className={classes.outcome} data-shows>
            bends: {outcome.label}{" "}
            {reading !== null ? (
              <b>{reading}</b>
            ) : (
              measured !== undefined && <Measured>{text(outcome.unit, measured ?? NaN)}</Measured>
            )}
          </div>
          <AsideField label={param.label} control={control} value={value} onChange={(next) => set(next, false)} />
        </div>
      )}
      {open && (
        <Explanation
          param={param}
          control={control}
          others={paramsOf(effect).filter((other) => other.id !== param.id && other.outcome)}
          onUse={(next) => set(next, false)}
        />
      )}
    </div>
  );
});

function Measured({ children }: { children: string }) {
  return <b data-stale={useStale()}>{children}</b>;
}

interface CompensateProps {
  control: Control;
  value: number;
  onUse: (value: number) => void;
}

/** Sets the output gain so that the passage is as loud after as before, exactly. */
function Compensate({ control, value, onUse }: CompensateProps) {
  const match = useMeasured((m) => m.report?.level_matches.loudness);
  // What was measured for other settings would make up for something else.
  const stale = useStale();
  if (!match || match.by === "silence" || match.by === "part") return null;
  const wanted = value + match.gain_db;
  const level = Math.abs(match.gain_db) < 0.005;
  const beyond = wanted < control.value(0) || wanted > control.value(1);
  return (
    <div className={classes.usual}>
      <button type="button" disabled={level || beyond || stale} onClick={() => onUse(wanted)}>
        {level ? "As loud as before" : `As loud as before: ${signedDb(match.gain_db)}`}
      </button>
    </div>
  );
}

/** Why a parameter does nothing now. */
function waitsFor(effect: Effect, param: Param): string {
  const needs = param.acts_with;
  const other = needs && paramNamed(effect, needs.param);
  if (!needs || !other) return "";
  if (other.choices.length === 0) return `Does nothing unless ${other.label} is ${needs.from} or more.`;
  if (needs.from === 1 && needs.to >= other.choices.length - 1)
    return `Does nothing while ${other.label} is set to ${other.choices[0]}.`;
  const fitting = other.choices.slice(needs.from, needs.to + 1);
  const last = fitting.pop();
  return `Does nothing unless ${other.label} is set to ${fitting.length > 0 ? `${fitting.join(", ")} or ` : ""}${last}.`;
}

interface ExplanationProps {
  param: Param;
  control: Control;
  others: Param[];
  onUse: (value: number) => void;
}

function Explanation({ param, control, others, onUse }: ExplanationProps) {
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
            <b>Usual:</b>{" "}
            {param.usual.map((usual) => `${control.text(fromFile(usual.value, 0))} for ${usual.purpose}`).join("; ")}.
          </p>
        </>
      )}
      <div className={classes.usual}>
        {param.usual.map((usual) => (
          <button
            key={usual.value}
            type="button"
            onClick={() => onUse(fromFile(usual.value, 0))}
            title={`Usual for ${usual.purpose}`}
          >
            {control.text(fromFile(usual.value, 0))}
          </button>
        ))}
        <button type="button" aria-expanded={more} onClick={() => setMore(!more)}>
          {more ? "Less" : "More"}
        </button>
        <FanControls param={param} control={control} others={others} />
        <EqualControls param={param} onUse={onUse} />
      </div>
    </div>
  );
}
