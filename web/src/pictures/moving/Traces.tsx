/** The way of every notch through a cycle: predicted as lines, found in noise as dots, over the noise itself. */
import { text } from "../../core/core";
import type { Traces } from "../../generated/types/Traces";
import { useMeasured, useShown } from "../../measuring/measured";
import { dots, paintLevels, strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { FREQUENCY_AXIS, placeOf } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { waitingText } from "./moving";

/** Gains that are seen, dB. */
const [FAINTEST_DB, STRONGEST_DB] = [-30, 12];
/** Pixels from dot to dot. */
const DOT_ROOM = 9;
const AXIS: Axis = { ...FREQUENCY_AXIS, ticks: [50, 200, 1000, 5000, 20_000].map(placeOf) };

/** Every notch as lines over the columns in which it is. */
function waysOf({ predicted_hz: columns }: Traces, s: Scales): [number, number][][] {
  const most = Math.max(0, ...columns.map((notches) => notches.length));
  const ways: [number, number][][] = [];
  for (let k = 0; k < most; k++) {
    let way: [number, number][] = [];
    columns.forEach((notches, column) => {
      const hz = notches[k];
      if (hz !== undefined) way.push([xOf(s, column, columns.length), s.y(placeOf(hz))]);
      else if (way.length > 0) {
        ways.push(way);
        way = [];
      }
    });
    if (way.length > 0) ways.push(way);
  }
  return ways;
}

const xOf = (s: Scales, column: number, columns: number) => s.left + ((column + 0.5) / columns) * (s.right - s.left);

export function TracesPicture() {
  const shown = useShown("traces");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown?.traces) return <div className={classes.waiting}>{waitingText(shown)}</div>;
  const { traces } = shown;
  const { seconds, cycle_s, window_s, cycles, found_hz, predicted_hz, levels_db, freqs_hz } = traces;
  const columns = found_hz.length;
  const found = found_hz.flat().filter((hz) => hz !== null).length;
  const all = predicted_hz.reduce((sum, notches) => sum + notches.length, 0);
  const laid = cycles > 1 ? `, ${cycles} cycles laid over each other` : "";
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Traces"
        x={timeAxis(seconds)}
        panes={[
          {
            title: `${cycle_s === null ? "Held" : seconds < cycle_s ? "The beginning of a cycle" : "One cycle"}: noise through the stage, Hz; window ${text("ms", 1000 * window_s)}${laid}`,
            axis: AXIS,
            share: 1,
            draw: (context, s) => {
              paintLevels(context, s, {
                levels: levels_db,
                columns,
                rows: freqs_hz.length,
                faintest: FAINTEST_DB,
                strongest: STRONGEST_DB,
                colour: "after",
              });
              waysOf(traces, s).forEach((way) => strokeLine(context, way, { colour: "ink", width: 1.4 }));
              // Not so many that the lines are covered.
              const every = Math.max(1, Math.ceil((DOT_ROOM * columns) / (s.right - s.left)));
              found_hz.forEach((notches, column) =>
                column % every > 0
                  ? undefined
                  : dots(
                      context,
                      notches.flatMap((hz): [number, number][] =>
                        hz === null ? [] : [[xOf(s, column, columns), s.y(placeOf(hz))]],
                      ),
                      2,
                      "spotlight-mark",
                    ),
              );
            },
            overlay: (s) => (
              <text x={s.left + 8} y={s.bottom - 8} className={plot.direct} fill="var(--ink)">
                {all === 0 ? "no notches" : `lines: predicted, dots: found (${found} of ${all})`}
              </text>
            ),
          },
        ]}
        read={(x) => {
          const column = Math.min(columns - 1, Math.max(0, Math.floor((x / seconds) * columns)));
          const lowest = (predicted_hz[column] ?? []).slice(0, 4);
          return {
            lines: [
              `${text("fine-s", x)} into the cycle`,
              ...lowest.map(
                (hz, k) =>
                  `notch ${k + 1}: predicted ${text("hz", hz)}, found ${text("hz", found_hz[column]?.[k] ?? null)}`,
              ),
            ],
          };
        }}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
