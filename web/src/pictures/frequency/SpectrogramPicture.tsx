/** Levels over time and frequency, before above and after below: the darker, the louder. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { HIGHEST_HZ, LOWEST_HZ } from "../../measuring/frequencies";
import { useMeasured, useShown } from "../../measuring/measured";
import { paintLevels } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import { useHeardPlace } from "../follow";
import { FREQUENCY_AXIS, hzAt, placeOf } from "./frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";

/** Levels from here are seen, dBFS. */
const FAINTEST_DBFS = -90;
const STRONGEST_DBFS = -12;

const AXIS: Axis = { ...FREQUENCY_AXIS, ticks: [50, 200, 1000, 5000, 20_000].map(placeOf) };

/** Each side in its own colour, from faint to strong. */
function draw(
  context: CanvasRenderingContext2D,
  s: Scales,
  levels: Float32Array,
  columns: number,
  rows: number,
  colour: string,
): void {
  paintLevels(context, s, { levels, columns, rows, faintest: FAINTEST_DBFS, strongest: STRONGEST_DBFS, colour });
}

export function SpectrogramPicture() {
  const shown = useShown("spectrogram");
  const whole = useMeasured((m) => (m.picture ? m.picture.seconds - m.picture.tailSeconds : 0));
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const follow = useHeardPlace();
  if (!shown || whole === 0) return <div className={classes.waiting}>Measuring over time and frequency…</div>;
  const { before, after, columns, rows, closeness } = shown;
  const seconds = closeness.seconds;
  const [low, high] = [placeOf(LOWEST_HZ), placeOf(HIGHEST_HZ)];
  /** The loudest row of a column: its frequency and level. */
  const loudest = (levels: Float32Array, column: number) => {
    const part = levels.subarray(column * rows, (column + 1) * rows);
    const row = part.reduce((best, db, i) => (db > (part[best] ?? -Infinity) ? i : best), 0);
    return `${text("hz", hzAt(low + ((row + 0.5) / rows) * (high - low)))} with ${text("dbfs", part[row] ?? null)}`;
  };
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Spectrogram"
        x={timeAxis(seconds)}
        panes={[
          {
            title: `Before: frequency, Hz; window ${text("ms", 1000 * closeness.window_s)}${closeness.seconds < whole ? ", the beginning: so that the movement is seen" : ""}`,
            axis: AXIS,
            share: 1,
            draw: (context, s) => draw(context, s, before, columns, rows, "before"),
          },
          {
            title: "After: frequency, Hz",
            axis: AXIS,
            share: 1,
            draw: (context, s) => draw(context, s, after, columns, rows, "after"),
          },
        ]}
        read={(x) => {
          const column = Math.min(columns - 1, Math.max(0, Math.floor((x / seconds) * columns)));
          return {
            lines: [
              `${x.toFixed(2)} s`,
              `before: loudest ${loudest(before, column)}`,
              `after: loudest ${loudest(after, column)}`,
            ],
          };
        }}
        follow={follow}
        onPick={(at) => engine.seek(at)}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
