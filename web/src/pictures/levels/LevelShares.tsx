/** How much of the time the passage spends at which level, before and after. */
import { text } from "../../core/core";
import type { Histogram } from "../../generated/types/Histogram";
import { useMeasured, useShown } from "../../measuring/measured";
import { fillBetween, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import classes from "../pictures.module.css";

const LOW_DBFS = -72;
const HIGH_DBFS = 6;

/** The outline of the bins. */
export function outline({ lowest_dbfs, bin_db, shares }: Histogram, s: Scales): [number, number][] {
  return shares.flatMap((share, i): [number, number][] => {
    const from = lowest_dbfs + i * bin_db;
    return [
      [s.x(from), s.y(share)],
      [s.x(from + bin_db), s.y(share)],
    ];
  });
}

export function LevelShares() {
  const shown = useShown("levels");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>Counting levels…</div>;
  const { before, after } = shown;
  const within = ({ shares, lowest_dbfs, bin_db }: Histogram) =>
    shares.filter((_, i) => lowest_dbfs + i * bin_db >= LOW_DBFS);
  const most = Math.max(0.02, ...within(before), ...within(after));
  const top = Math.ceil(most * 50) / 50;
  const share = ({ shares, lowest_dbfs, bin_db }: Histogram, level: number) =>
    shares[Math.floor((level - lowest_dbfs) / bin_db)] ?? 0;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Levels"
        x={{ domain: [LOW_DBFS, HIGH_DBFS], ticks: [-72, -60, -48, -36, -24, -12, 0], format: tickText }}
        panes={[
          {
            title: "Share of the time, %",
            axis: { domain: [0, top], ticks: [0, top / 2, top], format: (v) => tickText(Math.round(1000 * v) / 10) },
            share: 1,
            draw: (context, s) => {
              const filled = outline(after, s);
              fillBetween(
                context,
                filled,
                filled.map(([x]) => [x, s.bottom]),
                "after-fill",
              );
              strokeLine(context, filled, { colour: "after", width: 1.5 });
              strokeLine(context, outline(before, s), { colour: "before", width: 1.3, dash: [4, 3] });
            },
            overlay: (s) => (
              <>
                <line x1={s.x(0)} x2={s.x(0)} y1={s.top} y2={s.bottom} className={plot.mark} />
                <text x={s.right - 4} y={s.top - 8} textAnchor="end" className={plot.direct} fill="var(--mute)">
                  <tspan fill="var(--before)">before: dashed</tspan>
                  <tspan fill="var(--after)"> · after: filled</tspan>
                </text>
                <text x={s.right} y={s.bottom - 6} textAnchor="end" className={plot.direct} fill="var(--mute)">
                  RMS level over 10 ms, dBFS
                </text>
              </>
            ),
          },
        ]}
        read={(x) => ({
          lines: [
            `${text("dbfs", Math.floor(x))} to ${text("dbfs", Math.floor(x) + 1)}`,
            `before ${text("fine-percent", share(before, x))} of the time`,
            `after ${text("fine-percent", share(after, x))}`,
          ],
        })}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
