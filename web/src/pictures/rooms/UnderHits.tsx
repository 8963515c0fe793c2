/** The level of the reverb beside that of the sound that makes it: where it is heard, and where the next hit covers it. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { fillBetween, strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { useHeardPlace } from "../follow";
import { evenAxis } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { waitingText } from "./room";

const FLOOR_DBFS = -80;

export function UnderHitsPicture() {
  const shown = useShown("under-hits");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const follow = useHeardPlace();
  if (!shown?.levels) return <div className={classes.waiting}>{waitingText(shown ? null : undefined)}</div>;
  const {
    step_s: step,
    dry_dbfs: dry,
    wet_dbfs: wet,
    heard_from_dbfs: from,
    heard,
    longest_heard_s,
    longest_covered_s,
  } = shown.levels;
  const covered =
    longest_covered_s > 0
      ? `the sound covers it for up to ${text("ms", 1000 * longest_covered_s)}`
      : "nothing covers it";
  const said = `heard for ${text("percent", heard)} of the time, at most ${text("ms", 1000 * longest_heard_s)} on end; ${covered}`;
  const points = (s: Scales, levels: (number | null)[]) =>
    levels.map((db, i): [number, number] => [s.x((i + 0.5) * step), s.y(Math.max(FLOOR_DBFS, db ?? FLOOR_DBFS))]);
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Under the next hit"
        x={timeAxis(wet.length * step)}
        panes={[
          {
            title: "Level over all frequencies, dBFS; filled: where the reverb is heard",
            axis: evenAxis(FLOOR_DBFS, 0, 10),
            share: 1,
            draw: (context, s) => {
              const [reverb, threshold] = [points(s, wet), points(s, from)];
              context.globalAlpha = 0.45;
              fillBetween(
                context,
                reverb.map(([x, y], i) => [x, Math.min(y, threshold[i]?.[1] ?? y)]),
                threshold,
                "after-fill",
              );
              context.globalAlpha = 1;
              strokeLine(context, points(s, dry), { colour: "before", width: 1.2 });
              strokeLine(context, threshold, { colour: "difference", width: 1.4, dash: [5, 4] });
              strokeLine(context, reverb, { colour: "after", width: 2 });
            },
            overlay: (s) => (
              <>
                <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct}>
                  <tspan fill="var(--before)">the sound</tspan>
                  {" \u00b7 "}
                  <tspan fill="var(--after)">its reverb</tspan>
                  {" \u00b7 "}
                  <tspan fill="var(--difference)">heard from here on</tspan>
                </text>
                <text x={s.right - 6} y={s.top + 32} textAnchor="end" className={plot.direct} fill="var(--ink)">
                  {said}
                </text>
              </>
            ),
          },
        ]}
        read={(x) => {
          const i = Math.min(wet.length - 1, Math.max(0, Math.floor(x / step)));
          const over = (wet[i] ?? -Infinity) > (from[i] ?? 0);
          return {
            lines: [
              `${x.toFixed(2)} s`,
              `the sound ${text("dbfs", dry[i] ?? null)}`,
              `its reverb ${text("dbfs", wet[i] ?? null)}`,
              over ? "heard" : `covered: heard from ${text("dbfs", from[i] ?? null)} on`,
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
