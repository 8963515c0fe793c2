/** The swing of an oscillator: over the passage on both sides, and one cycle of it with the place that is heard or held. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { dots, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { useHeardPlace } from "../follow";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useHeardInCycle, waitingText } from "./moving";

const ENDS = { domain: [-1.15, 1.15] as [number, number], ticks: [-1, 0, 1], format: tickText };

export function SwingPicture() {
  const shown = useShown("swing");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const follow = useHeardPlace();
  const heard = useHeardInCycle(shown?.swing ?? null, shown?.seconds ?? 0);
  if (!shown?.swing) return <div className={classes.waiting}>{waitingText(shown)}</div>;
  const { seconds, swing } = shown;
  const { sides, cycle, cycle_s, held, cycles, fitting_hz } = swing;
  const line = (s: Scales, values: number[]) =>
    values.map((v, i): [number, number] => [s.left + ((i + 0.5) / values.length) * (s.right - s.left), s.y(v)]);
  const apart = sides[0].some((v, i) => Math.abs(v - (sides[1][i] ?? 0)) > 0.01);
  const mark = held ?? heard;
  const cycleAt = (place: number) => cycle[Math.min(cycle.length - 1, Math.floor(place * cycle.length))] ?? 0;
  const long = cycle_s < 0.9995 ? text("ms", 1000 * cycle_s) : text("fine-s", cycle_s);
  const fit =
    fitting_hz === null ? "" : `; at ${text("hz", fitting_hz)} whole cycles would fit, so that the seam is not heard`;
  const many =
    cycles < 1 ? `only ${text("percent", cycles)} of a cycle goes` : `${cycles.toFixed(cycles < 10 ? 2 : 1)} cycles go`;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Swing"
        x={timeAxis(seconds)}
        panes={[
          {
            title: apart ? "Over the passage: left, and right dashed" : "Over the passage, both sides together",
            axis: ENDS,
            share: 1,
            draw: (context, s) => {
              if (apart) strokeLine(context, line(s, sides[1]), { colour: "difference", width: 1.8, dash: [5, 4] });
              strokeLine(context, line(s, sides[0]), { colour: "after", width: 2.2 });
            },
            overlay: (s) => (
              <text x={s.right - 6} y={s.bottom - 6} textAnchor="end" className={plot.direct} fill="var(--ink)">
                {held === null ? `${many} into the passage${fit}` : `held at ${text("degrees", 360 * held)}`}
              </text>
            ),
          },
          {
            title: `One cycle, ${long}, stretched over the width`,
            axis: ENDS,
            share: 1,
            draw: (context, s) => {
              strokeLine(context, line(s, cycle), { colour: "after", width: 2.2 });
              if (mark !== null)
                dots(
                  context,
                  [[s.left + mark * (s.right - s.left), s.y(cycleAt(mark))]],
                  6,
                  held === null ? "after" : "spotlight-mark",
                );
            },
          },
        ]}
        read={(x) => {
          const i = Math.min(sides[0].length - 1, Math.max(0, Math.floor((x / seconds) * sides[0].length)));
          return {
            lines: [
              `${x.toFixed(2)} s, ${text("degrees", 360 * (swing.places[i] ?? 0))} of the cycle`,
              `left ${text("signed", sides[0][i] ?? null)}`,
              ...(apart ? [`right ${text("signed", sides[1][i] ?? null)}`] : []),
            ],
          };
        }}
        follow={follow}
        onPick={(at) => engine.seek(at)}
        version={`${id} ${mark === null ? "" : Math.round(mark * 200)}`}
        stale={stale}
      />
    </div>
  );
}
