/** The stems that play together: which one is worked on, solo, mute, level and pan, what it sends; and the shared paths. */
import { NativeSelect } from "@mantine/core";

import { withoutStem, withStemAdded, withStrip, withWork } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { hasRoomToShare, sharedName, withSharedAdded } from "../../bench/sends";
import { catalogue, effectNamed, stripControl } from "../../core/core";
import { isShared, sharedPlaces } from "../../measuring/sent";
import { ValueField } from "../../parts/ValueField";
import { SendRows } from "./SendRows";
import { SendsCompared } from "./SendsCompared";
import { nameOf, sourceGroups, sourceOf, useTracks } from "./sources";
import classes from "./stems.module.css";

export function StemsPanel() {
  const count = usePart((d) => d.stems.length);
  const shared = usePart((d) => sharedPlaces(d.stems).length);
  const work = usePart((d) => d.work);
  return (
    <section className={classes.stems} aria-label="Stems">
      <h3 className={classes.heading}>
        {shared === count - 1 ? "One stem" : `${count - shared} stems play together`}
        {shared > 0 ? ` with ${shared === 1 ? "a shared path" : `${shared} shared paths`}` : count === 1 && ", alone"}
      </h3>
      <SendsCompared />
      {count > 1 && Array.from({ length: count }, (_, i) => <Row key={i} index={i} atWork={i === work} />)}
      <AddStem />
      <AddShared />
    </section>
  );
}

function AddStem() {
  const edit = useBench((s) => s.edit);
  const tracks = useTracks().data;
  return (
    <NativeSelect
      size="xs"
      aria-label="Add a stem"
      value=""
      data={[{ value: "", label: "Add a stem…" }, ...sourceGroups(tracks)]}
      onChange={({ target }) => {
        const source = sourceOf(target.value);
        edit(`Add ${nameOf(source, tracks)}`, (d) => withStemAdded(d, source));
      }}
    />
  );
}

function AddShared() {
  const edit = useBench((s) => s.edit);
  const room = usePart(hasRoomToShare);
  if (!room) return null;
  return (
    <NativeSelect
      size="xs"
      aria-label="Add a shared path"
      value=""
      data={[
        { value: "", label: "Add a shared path…" },
        ...catalogue.effects.map((e) => ({ value: e.id, label: `Shared: ${e.label}` })),
      ]}
      onChange={({ target }) => {
        const effect = effectNamed(target.value);
        edit(`Add shared ${effect.label}`, (d) => withSharedAdded(d, effect));
      }}
    />
  );
}

interface RowProps {
  index: number;
  atWork: boolean;
}

/** Drawn anew only when something of its own moves, as all that stands beside the pictures. */
function Row({ index, atWork }: RowProps) {
  const { edit, look } = useBench.getState();
  const strip = usePart((d) => d.stems[index]?.strip);
  const source = usePart((d) => d.stems[index]?.source);
  const stages = usePart((d) => d.stems[index]?.snapshots[d.stems[index].snapshot]?.stages.length ?? 0);
  const tracks = useTracks().data;
  const shared = usePart((d) => (d.stems[index] && isShared(d.stems[index]) ? sharedName(d.stems, index) : null));
  // A shared path needs others.
  const last = usePart((d) => d.stems.filter((stem) => !isShared(stem)).length === 1);
  if (!strip || !source) return null;
  const name = shared ?? nameOf(source, tracks);
  const level = stripControl("level_db");
  const pan = stripControl("pan");
  return (
    <div className={classes.row} data-chosen={atWork || undefined}>
      <div className={classes.head}>
        <button
          type="button"
          className={classes.name}
          aria-pressed={atWork}
          onClick={() => look((d) => withWork(d, index))}
        >
          {name}
          {shared === null && stages > 0 && <span> · {stages === 1 ? "1 stage" : `${stages} stages`}</span>}
        </button>
        {(shared !== null || !last) && (
          <button
            type="button"
            className={classes.toggle}
            aria-label={`Remove ${name}`}
            onClick={() => edit(`Remove ${name}`, (d) => withoutStem(d, index))}
          >
            ×
          </button>
        )}
      </div>
      <div className={classes.controls}>
        <button
          type="button"
          className={classes.toggle}
          aria-pressed={strip.solo}
          aria-label={`Solo ${name}`}
          onClick={() =>
            edit(`${name} ${strip.solo ? "not solo" : "solo"}`, (d) => withStrip(d, index, { solo: !strip.solo }))
          }
        >
          Solo
        </button>
        <button
          type="button"
          className={classes.toggle}
          aria-pressed={strip.mute}
          aria-label={`Mute ${name}`}
          onClick={() =>
            edit(`${name} ${strip.mute ? "unmuted" : "muted"}`, (d) => withStrip(d, index, { mute: !strip.mute }))
          }
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
      {shared === null && <SendRows index={index} name={name} />}
    </div>
  );
}
