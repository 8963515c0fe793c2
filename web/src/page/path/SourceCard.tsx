/** The source of the stem at work, and its settings. */
import { NativeSelect } from "@mantine/core";

import { withReference, withSource, withSourceValue, withStem, workOf } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { channelsText, signalControl, signalOf } from "../../core/core";
import { isMade } from "../../core/made";
import { fromFile } from "../../core/numbers";
import { isShared, SENT, sendTo } from "../../measuring/sent";
import { ValueField } from "../../parts/ValueField";
import classes from "./path.module.css";
import { EditSound } from "../editors/EditSound";
import { nameOf, sourceGroups, sourceOf, useTracks, valueOfSource } from "./sources";

export function SourceSelect() {
  const senders = usePart((d) => (isShared(workOf(d)) ? d.stems.filter((stem) => sendTo(stem, d.work)).length : null));
  const source = usePart((d) => workOf(d).source);
  const tracks = useTracks().data;
  const edit = useBench((s) => s.edit);
  if (senders !== null) {
    return (
      <span className={classes.detail}>
        {senders === 0 ? "nothing is sent yet" : senders === 1 ? "from one stem" : `from ${senders} stems`}
      </span>
    );
  }
  return (
    <NativeSelect
      size="xs"
      aria-label="Source"
      value={valueOfSource(source)}
      data={sourceGroups(tracks, source)}
      onChange={({ target }) => {
        const next = sourceOf(target.value);
        edit(`Source: ${nameOf(next, tracks)}`, (d) => withSource(d, next));
      }}
    />
  );
}

/** What the work is set against: any source, or none. */
export function ReferenceSelect() {
  const reference = usePart((d) => d.reference);
  const tracks = useTracks().data;
  const edit = useBench((s) => s.edit);
  return (
    <NativeSelect
      size="xs"
      label="Reference"
      value={reference ? valueOfSource(reference) : ""}
      data={[{ value: "", label: "None" }, ...sourceGroups(tracks, reference ?? undefined)]}
      onChange={({ target }) => {
        const next = target.value === "" ? null : sourceOf(target.value);
        edit(next ? `Reference: ${nameOf(next, tracks)}` : "No reference", (d) => withReference(d, next));
      }}
    />
  );
}

/** The settings of the source, each as a typed value. */
export function SourceSettings() {
  const source = usePart((d) => workOf(d).source);
  const edit = useBench((s) => s.edit);
  const tracks = useTracks().data;
  const signal = signalOf(source.kind);
  if (source.kind === SENT) return null;
  if (!signal) {
    const track = tracks?.find(({ hash }) => hash === source.track);
    return (
      <div className={classes.settings}>
        <p className={classes.purpose}>
          {track ? `${track.name}: ${channelsText(track.channels)}, brought at ${track.rate_hz} Hz.` : "A kept track."}
        </p>
      </div>
    );
  }
  if (isMade(source)) {
    return (
      <div className={classes.settings}>
        <p className={classes.purpose}>{signal.purpose}</p>
        <EditSound
          sound={source}
          onChange={(label, next, key) =>
            edit(label, (d) => withStem(d, d.work, (stem) => ({ ...stem, source: next })), key)
          }
        />
      </div>
    );
  }
  return (
    <div className={classes.settings}>
      <p className={classes.purpose}>{signal.purpose}</p>
      {signal.params.map((param) => {
        const control = signalControl(signal.id, param.id);
        return (
          <div key={param.id} className={classes.setting} title={param.what}>
            <span>{param.label}</span>
            <ValueField
              label={param.label}
              control={control}
              value={fromFile(source.params?.[param.id], param.default)}
              onChange={(value) =>
                edit(`${param.label} ${control.text(value)}`, (d) => withSourceValue(d, param, value))
              }
            />
          </div>
        );
      })}
    </div>
  );
}
