/** The stems that play together: which one is worked on, solo, mute, level and pan. */
import { NativeSelect } from "@mantine/core";

import { withoutStem, withStemAdded, withStrip, withWork } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { stripControl } from "../core/core";
import type { Stem } from "../generated/types/Stem";
import { ValueField } from "../parts/ValueField";
import { nameOf, sourceGroups, sourceOf, useTracks } from "./sources";
import classes from "./stems.module.css";

export function StemsPanel() {
  const stems = usePart((d) => d.stems);
  const work = usePart((d) => d.work);
  const edit = useBench((s) => s.edit);
  const tracks = useTracks().data;
  return (
    <section className={classes.stems} aria-label="Stems">
      <h3 className={classes.heading}>{stems.length > 1 ? `${stems.length} stems play together` : "One stem, alone"}</h3>
      {stems.length > 1 &&
        stems.map((stem, i) => <Row key={i} stem={stem} index={i} atWork={i === work} name={nameOf(stem.source, tracks)} />)}
      <NativeSelect
        size="xs"
        aria-label="Add a stem"
        value=""
        data={[{ value: "", label: "Add a stem…" }, ...sourceGroups(tracks, { kind: "", params: {} })]}
        onChange={({ target }) => {
          const source = sourceOf(target.value);
          edit(`Add ${nameOf(source, tracks)}`, (d) => withStemAdded(d, source));
        }}
      />
    </section>
  );
}

interface RowProps {
  stem: Stem;
  index: number;
  atWork: boolean;
  name: string;
}

function Row({ stem, index, atWork, name }: RowProps) {
  const { edit, look } = useBench.getState();
  const { strip } = stem;
  const level = stripControl("level_db");
  const pan = stripControl("pan");
  const stages = stem.snapshots[stem.snapshot]?.stages.length ?? 0;
  return (
    <div className={classes.row} data-chosen={atWork || undefined}>
      <div className={classes.head}>
        <button type="button" className={classes.name} aria-pressed={atWork} onClick={() => look((d) => withWork(d, index))}>
          {name}
          {stages > 0 && <span> · {stages === 1 ? "1 stage" : `${stages} stages`}</span>}
        </button>
        <button type="button" className={classes.toggle} aria-label={`Remove ${name}`} onClick={() => edit(`Remove ${name}`, (d) => withoutStem(d, index))}>
          ×
        </button>
      </div>
      <div className={classes.controls}>
        <button
          type="button"
          className={classes.toggle}
          aria-pressed={strip.solo}
          aria-label={`Solo ${name}`}
          onClick={() => edit(`${name} ${strip.solo ? "not solo" : "solo"}`, (d) => withStrip(d, index, { solo: !strip.solo }))}
        >
          Solo
        </button>
        <button
          type="button"
          className={classes.toggle}
          aria-pressed={strip.mute}
          aria-label={`Mute ${name}`}
          onClick={() => edit(`${name} ${strip.mute ? "unmuted" : "muted"}`, (d) => withStrip(d, index, { mute: !strip.mute }))}
        >
          Mute
        </button>
        <ValueField
          label={`Level of ${name}`}
          control={level}
          value={strip.level_db}
          onChange={(level_db) => edit(`${name} ${level.text(level_db)}`, (d) => withStrip(d, index, { level_db }))}
        />
        <ValueField
          label={`Pan of ${name}`}
          control={pan}
          value={strip.pan}
          onChange={(value) => edit(`${name} pan ${pan.text(value)}`, (d) => withStrip(d, index, { pan: value }))}
        />
      </div>
    </div>
  );
}
