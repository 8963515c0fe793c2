/** The spectrum of a room's response as it falls: a line every so many milliseconds, from light to dark. */
import { text } from "../../core/core";
import { fanShade, strokeLine } from "../../plot/drawing";
import { type Axis, PlotFrame } from "../../plot/PlotFrame";
import plot from "../../plot/plot.module.css";
import { evenAxis, FREQUENCY_AXIS, hzAt, placeOf } from "../frequency";
import classes from "../pictures.module.css";
import { useRoom, waitingText } from "./room";

const FLOOR_DB = -80;
const AXIS: Axis = { ...FREQUENCY_AXIS, domain: [placeOf(45), placeOf(18_000)], ticks: [50, 100, 200, 500, 1000, 2000, 5000, 10_000].map(placeOf) };

export function FallingPicture() {
  const { view, version, stale } = useRoom("falling");
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { falling, falling_hz: freqs } = view;
  const nearest = (x: number) => freqs.reduce((best, hz, i) => (Math.abs(placeOf(hz) - x) < Math.abs(placeOf(freqs[best] ?? 1) - x) ? i : best), 0);
  const every = text("ms", 1000 * ((falling[1]?.at_s ?? 0) - (falling[0]?.at_s ?? 0)));
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Falling spectrum"
        x={AXIS}
        panes={[
          {
            title: "Level in thirds of octaves, dB under the highest",
            axis: evenAxis(FLOOR_DB, 0, 10),
            share: 1,
            draw: (context, s) =>
              falling.forEach((line, i) => {
                const points = line.levels_db.map((db, k): [number, number] => [s.x(placeOf(freqs[k] ?? 1)), s.y(db)]);
                strokeLine(context, points, { colour: "after", width: 1.8, share: 1.3 - fanShade(i, falling.length) });
              }),
            overlay: (s) => (
              <text x={s.left + 6} y={s.bottom - 8} className={plot.direct} fill="var(--after)">
                a line every {every}, from dark to light
              </text>
            ),
          },
        ]}
        read={(x) => {
          const k = nearest(x);
          const reading = (i: number) => {
            const line = falling[i];
            return line ? [`after ${text("ms", 1000 * line.at_s)}: ${text("db", line.levels_db[k] ?? null)}`] : [];
          };
          return { lines: [text("hz", freqs[k] ?? hzAt(x)), ...[0, 2, 4, 6, 8, 10].flatMap(reading)] };
        }}
        version={version}
        stale={stale}
      />
    </div>
  );
}
