/**
 * The source as a whole, and the loop region on it. A drag makes a region; its ends are sliders that snap to onsets
 * unless Shift is held; a double-click takes the whole source again.
 */
import { SegmentedControl } from "@mantine/core";
import { useElementSize, useMergedRef } from "@mantine/hooks";
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";

import { engine } from "../../audio/engine";
import { withPlay, withRegion } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { regionBetween, snapped, text, usualRegion } from "../../core/core";
import type { Play } from "../../generated/types/Play";
import type { Region } from "../../generated/types/Region";
import { useMeasured } from "../../measuring/measured";
import { askedAlong } from "../../parts/sliderKeys";
import { token } from "../../theme/theme";
import classes from "./region-strip.module.css";

const HEIGHT = 40;
/** As a loop as it is heard once settled, or from rest to its end and on. */
const PLAYS: { value: Play; label: string }[] = [
  { value: "round", label: "Round" },
  { value: "once", label: "Once, with its tail" },
];
/** A drag shorter than this is a click, pixels. */
const CLICK = 4;

export function RegionStrip() {
  const overview = useMeasured((m) => m.overview);
  const region = usePart((d) => d.region);
  const play = usePart((d) => d.play);
  const edit = useBench((s) => s.edit);
  const { ref: sized, width } = useElementSize<HTMLDivElement>();
  const strip = useRef<HTMLDivElement>(null);
  const merged = useMergedRef(sized, strip);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [drag, setDrag] = useState<{ from: number; x: number; region: Region | null } | null>(null);

  useEffect(() => {
    const context = canvas.current?.getContext("2d");
    if (!context || !overview || width === 0) return;
    const density = window.devicePixelRatio || 1;
    context.canvas.width = Math.round(width * density);
    context.canvas.height = Math.round(HEIGHT * density);
    context.scale(density, density);
    context.fillStyle = token("mute");
    const columns = overview.max.length;
    for (let i = 0; i < columns; i++) {
      const [high, low] = [overview.max[i] ?? 0, overview.min[i] ?? 0];
      const y = (HEIGHT / 2) * (1 - high);
      context.fillRect(
        (i * width) / columns,
        y,
        Math.max(0.6, width / columns),
        Math.max(1, (HEIGHT / 2) * (high - low)),
      );
    }
  }, [overview, width]);

  if (!overview) return <div className={classes.strip} style={{ height: HEIGHT }} />;
  const { seconds, onsets } = overview;
  const now = drag?.region ?? region ?? usualRegion(seconds);
  // Of an endless sound, a loop is as long as it may be.
  const longest = usualRegion(Number.MAX_VALUE).to_s - 1e-6;
  const whole = !region && now.to_s >= seconds;
  const x = (s: number) => `${((100 * s) / seconds).toFixed(3)}%`;

  const placeOf = (event: PointerEvent) => {
    const box = strip.current?.getBoundingClientRect();
    const at = box ? ((event.clientX - box.left) / box.width) * seconds : 0;
    const inside = Math.min(seconds, Math.max(0, at));
    return event.shiftKey ? inside : snapped(inside, onsets, seconds);
  };
  const set = (next: Region | null, merge: boolean) => {
    const label = next ? `Loop ${text("s", next.from_s)} to ${text("s", next.to_s)}` : "Loop all";
    edit(label, (d) => withRegion(d, next), merge ? "region" : undefined);
  };
  const begin = (event: PointerEvent, from: number) => {
    if (event.button !== 0) return;
    event.stopPropagation();
    strip.current?.setPointerCapture(event.pointerId);
    setDrag({ from, x: event.clientX, region: null });
  };
  const move = (event: PointerEvent) => {
    if (!drag || Math.abs(event.clientX - drag.x) < CLICK) return;
    setDrag({ ...drag, region: regionBetween(drag.from, placeOf(event), seconds) });
  };
  const end = (event: PointerEvent) => {
    if (!drag) return;
    if (drag.region) set(drag.region, false);
    else engine.seek(Math.max(0, placeOf(event) - now.from_s));
    setDrag(null);
  };

  const edge = (which: "from_s" | "to_s") => {
    const other = which === "from_s" ? now.to_s : now.from_s;
    const onKey = (event: KeyboardEvent) => {
      const step = event.shiftKey ? 0.001 : seconds / 200;
      if (event.key === "Delete") set(null, false);
      const wanted = askedAlong(event);
      if (!wanted) return;
      event.preventDefault();
      const [least, most] = which === "from_s" ? [0, now.to_s] : [now.from_s, seconds];
      const to =
        wanted.end === null ? now[which] + step * (wanted.along + 10 * wanted.pages) : wanted.end === 0 ? least : most;
      // Long steps end at onsets, as the hand does; short ones are for places between them.
      set(regionBetween(other, wanted.pages === 0 ? to : snapped(to, onsets, seconds), seconds), true);
    };
    return (
      <div
        className={classes.edge}
        style={{ left: x(now[which]) }}
        role="slider"
        tabIndex={0}
        aria-label={which === "from_s" ? "Start of the loop" : "End of the loop"}
        aria-valuemin={0}
        aria-valuemax={seconds}
        aria-valuenow={now[which]}
        aria-valuetext={text("s", now[which])}
        onPointerDown={(event) => begin(event, other)}
        onKeyDown={onKey}
      />
    );
  };

  return (
    <div className={classes.row} data-loop>
      <div
        ref={merged}
        className={classes.strip}
        style={{ height: HEIGHT }}
        onPointerDown={(event) => begin(event, placeOf(event))}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={() => setDrag(null)}
        onDoubleClick={() => set(null, false)}
      >
        <canvas ref={canvas} className={classes.canvas} aria-hidden />
        <div className={classes.outside} style={{ left: 0, width: x(now.from_s) }} />
        <div className={classes.outside} style={{ left: x(now.to_s), right: 0 }} />
        {edge("from_s")}
        {edge("to_s")}
      </div>
      <SegmentedControl
        size="xs"
        aria-label="How it is played"
        data={PLAYS}
        value={play}
        onChange={(value) =>
          edit(value === "once" ? "Once, with its tail" : "Round", (d) => withPlay(d, value as Play))
        }
      />
      <span className={classes.said}>
        {whole ? `all ${text("s", seconds)}` : `${text("s", now.to_s - now.from_s)} of ${text("s", seconds)}`}
        {!whole && now.to_s - now.from_s >= longest && ", the most that a loop may be"}
      </span>
    </div>
  );
}
