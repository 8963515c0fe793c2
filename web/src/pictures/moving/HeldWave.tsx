/** A few cycles of the wave standing still, left and right, before and after: each look begins where the wave before rises through zero. */
import { useState } from "react";

import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis, Pane } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import classes from "../pictures.module.css";
import { useHeard } from "./moving";
import { PlaceBar } from "./PlaceBar";

const SIDES = ["left", "right"] as const;

const sameSecond = (second: number) => second;

export function HeldWavePicture() {
  const shown = useShown("held-wave");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const heard = useHeard(sameSecond);
  const [byHand, setByHand] = useState(0);
  if (!shown) return <div className={classes.waiting}>Looking at the wave…</div>;
  const { looks, seconds } = shown;
  const place = heard === null ? byHand : Math.min(0.999, heard / seconds);
  const index = Math.min(looks.length - 1, Math.floor(place * looks.length));
  const look = looks[index];
  if (!look) return <div className={classes.waiting}>There is nothing to look at.</div>;
  // The same height for all looks, so that levels can be compared.
  const top = looks.reduce(
    (most, each) =>
      [...each.before, ...each.after].reduce((m, side) => side.reduce((a, v) => Math.max(a, Math.abs(v)), m), most),
    0.01,
  );
  const y: Axis = {
    domain: [-1.08 * top, 1.08 * top],
    ticks: [-1, 0, 1].map((share) => +(share * top).toPrecision(2)),
    format: tickText,
  };
  const span = 1000 * look.seconds;
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20].find((each) => span / each <= 9) ?? 20;
  const x: Axis = {
    domain: [0, span],
    ticks: Array.from({ length: Math.floor(span / step + 1e-6) + 1 }, (_, i) => i * step),
    format: (v) => `${+v.toFixed(1)} ms`,
  };
  const line = (s: Scales, values: number[]) =>
    values.map((v, i): [number, number] => [s.left + (i / (values.length - 1)) * (s.right - s.left), s.y(v)]);
  const what = look.pitch_hz === null ? "no pitch: 20 ms" : `four cycles of ${text("hz", look.pitch_hz)}`;
  return (
    <div className={classes.over}>
      <PlotFrame
        label="Held wave"
        x={x}
        panes={SIDES.map((side, c): Pane => ({
          title: `${side === "left" ? `${what}, begun where the wave before rises; left` : "Right"}: before thin, after`,
          axis: y,
          share: 1,
          draw: (context, s) => {
            strokeLine(context, line(s, look.before[c] ?? []), { colour: "before", width: 1.4 });
            strokeLine(context, line(s, look.after[c] ?? []), { colour: "after", width: 2.2 });
          },
        }))}
        read={(at) => {
          const of = (values: number[] | undefined) =>
            text("signed", values?.[Math.round((at / span) * (values.length - 1))] ?? null);
          return {
            lines: [
              `${at.toFixed(2)} ms`,
              ...SIDES.map((side, c) => `${side}: ${of(look.before[c])} before, ${of(look.after[c])} after`),
            ],
          };
        }}
        version={`${id} ${index}`}
        stale={stale}
      />
      <PlaceBar
        label="Place in the passage"
        place={place}
        places={looks.length}
        said={text("fine-s", look.at_s)}
        follows={heard !== null}
        onChange={setByHand}
      />
    </div>
  );
}
