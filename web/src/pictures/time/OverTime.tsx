/** Before and after on one time axis, with the threshold and full scale; the gain beneath. */
import { SegmentedControl } from "@mantine/core";
import { useState } from "react";

import { engine } from "../../audio/engine";
import { usePart } from "../../bench/store";
import { setColumns } from "../../bench/wiring";
import { factor, levelText, text } from "../../core/core";
import type { Fan } from "../../measuring/bendWorkers";
import { noteDrawn, useMeasured } from "../../measuring/measured";
import type { FanBlade, Picture } from "../../measuring/messages";
import { columnsOf, fanShade, fillBetween, strokeLine, tickText, toDbfs } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis, Pane } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { Tag } from "../../plot/Tag";
import { FanLabels } from "../FanLabels";
import { useHeardPlace } from "../follow";
import { useBendingLevel, useHandle } from "../handles";
import { InHead } from "../InHead";
import classes from "../pictures.module.css";
import { drawGain, gainAxis, timeAxis } from "../shared";

const FLOOR_DBFS = -60;

type Upright = "levels" | "wave";

const level: Axis = {
  domain: [FLOOR_DBFS, 0],
  ticks: [0, -12, -24, -36, -48, -60],
  format: tickText,
};
const keyLevel: Axis = { ...level, ticks: [0, -24, -48] };
const wave: Axis = {
  domain: [-1, 1],
  ticks: [1, 0.5, 0, -0.5, -1],
  format: tickText,
};

/** Largest amplitude of a column. */
const size = (min: Float32Array, max: Float32Array) => Float32Array.from(max, (v, i) => Math.max(v, -(min[i] ?? 0)));

function drawLevels(context: CanvasRenderingContext2D, s: Scales, picture: Picture): void {
  const dbfs = (v: number) => toDbfs(v, FLOOR_DBFS);
  const after = columnsOf(size(picture.afterMin, picture.afterMax), s, dbfs);
  const before = columnsOf(size(picture.beforeMin, picture.beforeMax), s, dbfs);
  fillBetween(
    context,
    after,
    after.map(([x]) => [x, s.bottom]),
    "after-fill",
  );
  strokeLine(context, after, { colour: "after", width: 1.5 });
  strokeLine(context, before, { colour: "before", width: 1.2, dash: [4, 3] });
}

function drawWave(context: CanvasRenderingContext2D, s: Scales, picture: Picture): void {
  const same = (v: number) => v;
  fillBetween(context, columnsOf(picture.afterMax, s, same), columnsOf(picture.afterMin, s, same), "after-fill");
  for (const edge of [picture.beforeMax, picture.beforeMin]) {
    strokeLine(context, columnsOf(edge, s, same), { colour: "before", width: 1, dash: [4, 3] });
  }
}

/** The scales of what is so long, on an axis that is longer. */
const part = (s: Scales, seconds: number, whole: number): Scales => ({
  ...s,
  right: s.left + ((s.right - s.left) * seconds) / whole,
});

/** Where the label of a value is put: at the column where its line goes furthest. */
function furthest(values: Float32Array, further: (a: number, b: number) => boolean): number {
  return values.reduce((best, v, i) => (further(v, values[best] ?? 0) ? i : best), 0);
}

function deepestAt(gain: Float32Array, s: Scales): [number, number] {
  const i = furthest(gain, (a, b) => a < b);
  return [s.left + ((i + 0.5) * (s.right - s.left)) / gain.length, s.y(gain[i] ?? 0)];
}

function loudestAt(level: Float32Array, s: Scales): [number, number] {
  const i = furthest(level, (a, b) => a > b);
  return [s.left + ((i + 0.5) * (s.right - s.left)) / level.length, s.y(toDbfs(level[i] ?? 0, FLOOR_DBFS))];
}

/** The values of a fan, from light to dark: their levels, or their gains where there are any. */
function drawFan(
  context: CanvasRenderingContext2D,
  s: Scales,
  whole: number,
  fan: Fan,
  of: (blade: FanBlade) => Float32Array,
  value: (v: number) => number,
): void {
  fan.blades.forEach((blade, i) => {
    const points = columnsOf(of(blade), part(s, blade.seconds, whole), value);
    if (points.length > 0) strokeLine(context, points, { colour: "after", width: 1.7, share: fanShade(i, fan.count) });
  });
}

export function OverTime() {
  const fan = useMeasured((m) => m.fan);
  const picture = useMeasured((m) => m.picture);
  const stale = useMeasured((m) => m.pictureId !== m.asked);
  const id = useMeasured((m) => m.pictureId);
  const reference = useMeasured((m) => m.referenceColumns);
  const [upright, setUpright] = useState<Upright>("levels");
  const bending = useBendingLevel();
  const handle = useHandle(bending?.param, "y");
  const spotlight = usePart((d) => d.view.spotlight);
  const follow = useHeardPlace();
  if (!picture) return <div className={classes.waiting}>Measuring the passage…</div>;

  const axis = upright === "levels" ? level : wave;
  // A tail after the end makes the picture longer.
  const passage = picture.seconds - picture.tailSeconds;
  const whole = Math.max(picture.seconds, ...(fan?.blades.map((blade) => blade.seconds) ?? []));
  const own = (s: Scales) => part(s, picture.seconds, whole);

  /** Where the passage ends and its tail begins. */
  const endMark = ({ right, top, bottom }: Scales) => (
    <>
      <line x1={right} x2={right} y1={top} y2={bottom} className={plot.mark} />
      <text x={right + 4} y={bottom - 6} className={plot.direct} fill="var(--mute)">
        tail
      </text>
    </>
  );

  const thresholdMark = (s: Scales) => {
    if (!bending?.on) return null;
    const lit = spotlight === bending.param.id || spotlight === bending.knee?.id;
    const linear = factor(bending.value);
    const heights = upright === "levels" ? [bending.value] : [linear, -linear];
    return (
      <>
        {heights.map((h, i) => (
          <line
            key={i}
            x1={s.left}
            x2={s.right}
            y1={s.y(h)}
            y2={s.y(h)}
            className={plot.mark}
            data-lit={lit || undefined}
          />
        ))}
        <Tag
          x={s.right - 6}
          y={s.y(heights[0] ?? 0) - 12}
          text={`${bending.param.label} ${text("dbfs", bending.value)}`}
          lit={lit}
        />
      </>
    );
  };
  const directLabels = (s: Scales) => (
    <>
      <text x={s.right - 4} y={s.top - 8} textAnchor="end" className={plot.direct} fill="var(--mute)">
        <tspan fill="var(--before)">before: dashed line</tspan>
        <tspan fill="var(--after)"> · {fan ? "fan: light to dark" : "after: filled"}</tspan>
        {reference && upright === "levels" && <tspan fill="var(--gain)"> · reference: dotted</tspan>}
      </text>
    </>
  );

  const [, loudestOfKey] = picture.key;
  // The threshold is one of the key's level, where there is a key.
  const keyed = loudestOfKey.length > 0 && upright === "levels";
  const fanned = fan !== null;
  const gains = fan ? fan.blades.map((blade) => blade.gainDb) : [picture.gainDb];
  const panes: Pane[] = [
    {
      title: upright === "levels" ? "Level, dBFS" : "Wave, full scale = 1",
      axis,
      handles: handle && bending?.on && upright === "levels" && !keyed ? [handle] : [],
      share: 3,
      draw: (context, all) => {
        const s = own(all);
        if (fan && upright === "levels") {
          const dbfs = (v: number) => toDbfs(v, FLOOR_DBFS);
          const before = columnsOf(size(picture.beforeMin, picture.beforeMax), s, dbfs);
          drawFan(context, all, whole, fan, ({ afterMin, afterMax }) => size(afterMin, afterMax), dbfs);
          strokeLine(context, before, { colour: "before", width: 1.2, dash: [4, 3] });
        } else (upright === "levels" ? drawLevels : drawWave)(context, s, picture);
        if (reference && upright === "levels") {
          const levels = columnsOf(size(...reference), part(all, passage, whole), (v) => toDbfs(v, FLOOR_DBFS));
          strokeLine(context, levels, { colour: "gain", width: 1, dash: [1.5, 2.5] });
        }
      },
      overlay: (s) => (
        <>
          {directLabels(s)}
          {!keyed && thresholdMark(s)}
          {whole > passage && endMark(part(s, passage, whole))}
        </>
      ),
    },
  ];
  if (keyed) {
    panes.push({
      title: "Key, dBFS",
      axis: keyLevel,
      share: 1.3,
      handles: handle && bending?.on ? [handle] : [],
      draw: (context, all) => {
        const s = own(all);
        const points = columnsOf(size(...picture.key), s, (v) => toDbfs(v, FLOOR_DBFS));
        strokeLine(context, points, { colour: "ink", width: 1.2 });
      },
      overlay: thresholdMark,
    });
  }
  if (gains.some((gain) => gain.length > 0) && upright === "wave" && !fan) {
    panes.push({
      title: "Gain, as a factor",
      axis: { domain: [0, 1], ticks: [1, 0.5, 0], format: tickText },
      share: 1.1,
      draw: (context, s) =>
        strokeLine(context, columnsOf(picture.gainDb, own(s), factor), { colour: "gain", width: 1.8 }),
    });
  } else if (gains.some((gain) => gain.length > 0)) {
    panes.push({
      title: "Gain, dB",
      axis: gainAxis(gains),
      share: fanned ? 2 : 1.1,
      draw: (context, s) =>
        fan
          ? drawFan(
              context,
              s,
              whole,
              fan,
              (blade) => blade.gainDb,
              (v) => v,
            )
          : drawGain(context, own(s), picture.gainDb),
      overlay: (s) =>
        fan && (
          <FanLabels fan={fan} scales={s} at={(blade) => deepestAt(blade.gainDb, part(s, blade.seconds, whole))} />
        ),
    });
  } else if (fan && panes[0]) {
    const { overlay } = panes[0];
    panes[0].overlay = (s) => (
      <>
        {overlay?.(s)}
        <FanLabels
          fan={fan}
          scales={s}
          at={({ seconds, afterMin, afterMax }) => loudestAt(size(afterMin, afterMax), part(s, seconds, whole))}
        />
      </>
    );
  }

  const read = (x: number) => {
    const columns = picture.beforeMax.length;
    const i = Math.min(columns - 1, Math.max(0, Math.floor((x / picture.seconds) * columns)));
    const peak = (min: Float32Array, max: Float32Array) => levelText(Math.max(max[i] ?? 0, -(min[i] ?? 0)));
    const lines = [
      `${x.toFixed(2)} s`,
      `before ${peak(picture.beforeMin, picture.beforeMax)}`,
      `after ${peak(picture.afterMin, picture.afterMax)}`,
    ];
    if (loudestOfKey.length > 0) lines.push(`key ${peak(...picture.key)}`);
    if (picture.gainDb.length > 0) lines.push(`gain ${text("db", picture.gainDb[i] ?? 0)}`);
    return { lines };
  };

  return (
    <div className={classes.picture}>
      <InHead>
        <SegmentedControl
          size="xs"
          aria-label="Upright axis"
          data={[
            { value: "levels", label: "dB" },
            { value: "wave", label: "Wave" },
          ]}
          value={upright}
          onChange={(value) => setUpright(value as Upright)}
        />
      </InHead>
      <PlotFrame
        label="Over time"
        x={timeAxis(whole)}
        panes={panes}
        read={read}
        follow={follow}
        onPick={(seconds) => engine.seek(seconds)}
        onDrawn={() => noteDrawn(id)}
        onWidth={setColumns}
        version={`${id} ${upright} ${reference ? reference[0].length + (reference[1][7] ?? 0) : ""} ${fan ? `${fan.id} ${fan.blades.length}` : ""}`}
        stale={stale}
      />
    </div>
  );
}
