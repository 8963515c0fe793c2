/** The spectrum of a room's response as it falls: a line every so many milliseconds, or all of it over time. */
import { text } from "../../core/core";
import type { Falling } from "../../generated/types/Falling";
import type { FallingLine } from "../../generated/types/FallingLine";
import { useMeasured, useShown } from "../../measuring/measured";
import { fanShade, paintLevels, strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { evenAxis, FREQUENCY_AXIS, hzAt, placeOf } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useRoom, waitingText } from "./room";

const FLOOR_DB = -80;
const AXIS: Axis = {
  ...FREQUENCY_AXIS,
  domain: [placeOf(45), placeOf(18_000)],
  ticks: [50, 100, 200, 500, 1000, 2000, 5000, 10_000].map(placeOf),
};
/** The line at which the values of a fan are compared: a quarter of the way down. */
const COMPARED = 3;

const nearestLine = (lines: FallingLine[], at: number): FallingLine | undefined =>
  lines.reduce<FallingLine | undefined>(
    (best, line) => (best && Math.abs(best.at_s - at) <= Math.abs(line.at_s - at) ? best : line),
    undefined,
  );

const nearestFreq = (freqs: number[], x: number) =>
  freqs.reduce((best, hz, i) => (Math.abs(placeOf(hz) - x) < Math.abs(placeOf(freqs[best] ?? 1) - x) ? i : best), 0);

export function FallingPicture() {
  const { view, drawn, fanned, version, stale } = useRoom("falling");
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { lines, freqs_hz: freqs } = view;
  const every = text("ms", 1000 * ((lines[1]?.at_s ?? 0) - (lines[0]?.at_s ?? 0)));
  const compared = lines[COMPARED]?.at_s ?? 0;
  const draw = (context: CanvasRenderingContext2D, s: Scales, line: FallingLine, share: number) => {
    const points = line.levels_db.map((db, k): [number, number] => [s.x(placeOf(freqs[k] ?? 1)), s.y(db)]);
    strokeLine(context, points, { colour: "after", width: 1.8, share });
  };
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
            draw: (context, s) => {
              if (!fanned) return lines.forEach((line, i) => draw(context, s, line, 1.3 - fanShade(i, lines.length)));
              drawn.forEach((each) => {
                const line = nearestLine(each.view.lines, compared);
                if (line) draw(context, s, line, each.share);
              });
            },
            overlay: (s) => (
              <text x={s.left + 6} y={s.bottom - 8} className={plot.direct} fill="var(--after)">
                {fanned
                  ? `fan: light to dark, each after about ${text("ms", 1000 * compared)}`
                  : `a line every ${every}, from dark to light`}
              </text>
            ),
          },
        ]}
        read={(x) => {
          const k = nearestFreq(freqs, x);
          const reading = (i: number) => {
            const line = lines[i];
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

export function FallingOverTime() {
  const shown = useShown("falling-over-time");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown?.falling) return <div className={classes.waiting}>{waitingText(shown ? null : undefined)}</div>;
  const { lines, freqs_hz: freqs, seconds } = shown.falling satisfies Falling;
  const levels = lines.flatMap((line) => line.levels_db);
  // Every third has its height on the axis, from its lower edge on.
  const half = (placeOf(freqs[1] ?? 2) - placeOf(freqs[0] ?? 1)) / 2;
  const axis: Axis = {
    ...FREQUENCY_AXIS,
    domain: [placeOf(freqs[0] ?? 50) - half, placeOf(freqs.at(-1) ?? 16_000) + half],
    ticks: AXIS.ticks,
  };
  const at = (x: number) => lines[Math.min(lines.length - 1, Math.max(0, Math.floor((x / seconds) * lines.length)))];
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Falling, over time"
        x={timeAxis(seconds)}
        panes={[
          {
            title: "Thirds of octaves, Hz: the darker, the louder, down to 80 dB under the highest",
            axis,
            share: 1,
            draw: (context, s) =>
              paintLevels(context, s, {
                levels,
                columns: lines.length,
                rows: freqs.length,
                faintest: FLOOR_DB,
                strongest: 0,
                colour: "after",
              }),
          },
        ]}
        read={(x) => ({
          lines: [
            text("ms", 1000 * x),
            ...[125, 500, 1000, 4000, 8000].map(
              (hz) => `${text("hz", hz)}: ${text("db", at(x)?.levels_db[nearestFreq(freqs, placeOf(hz))] ?? null)}`,
            ),
          ],
        })}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
