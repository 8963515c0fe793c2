/** Every onset: its transient, its body and what lies between it and the next one, before and after. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import type { OnsetLevels } from "../../generated/types/OnsetLevels";
import { useMeasured } from "../../measuring/measured";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Pane } from "../../plot/panes";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { timeAxis } from "../shared";
import { useHeardPlace } from "../follow";
import classes from "../pictures.module.css";

const FLOOR_DBFS = -60;

const PARTS: { title: string; of: (levels: OnsetLevels) => number | null }[] = [
  { title: "Transient: peak of the first 20 ms, dBFS", of: (l) => l.transient_dbfs },
  { title: "Body: RMS from 20 to 120 ms, dBFS", of: (l) => l.body_dbfs },
  { title: "Between: RMS before the next onset, dBFS", of: (l) => l.between_dbfs },
];

const shown = (level: number | null) => Math.max(FLOOR_DBFS, level ?? FLOOR_DBFS);

export function Onsets() {
  const report = useMeasured((m) => m.report);
  const id = useMeasured((m) => m.reportId);
  const stale = useMeasured((m) => m.reportId !== m.asked);
  const follow = useHeardPlace();
  if (!report) return <div className={classes.waiting}>Measuring the passage…</div>;
  const { onsets, seconds } = report;
  if (onsets.length === 0)
    return <div className={classes.waiting}>This passage has no onsets: no sound in it begins suddenly.</div>;
  const panes: Pane[] = PARTS.map(({ title, of }, i) => ({
    title,
    axis: { domain: [FLOOR_DBFS, 0], ticks: [0, -30, -60], format: tickText },
    share: 1,
    draw: (context, s) => {
      for (const onset of onsets) {
        const x = s.x(onset.at_s);
        const [before, after] = [s.y(shown(of(onset.before))), s.y(shown(of(onset.after)))];
        strokeLine(
          context,
          [
            [x, before],
            [x, after],
          ],
          { colour: "mute", width: 1 },
        );
        context.beginPath();
        context.arc(x, before, 4, 0, 2 * Math.PI);
        context.strokeStyle = token("before");
        context.lineWidth = 1.4;
        context.stroke();
        context.beginPath();
        context.arc(x, after, 3.4, 0, 2 * Math.PI);
        context.fillStyle = token("after");
        context.fill();
      }
    },
    overlay: (s) =>
      i === 0 && (
        <text x={s.right - 4} y={s.top - 8} textAnchor="end" className={plot.direct} fill="var(--mute)">
          <tspan fill="var(--before)">before: hollow</tspan>
          <tspan fill="var(--after)"> · after: filled</tspan>
        </text>
      ),
  }));
  const read = (x: number) => {
    const nearest = onsets.reduce((a, b) => (Math.abs(b.at_s - x) < Math.abs(a.at_s - x) ? b : a));
    const part = (name: string, of: (l: OnsetLevels) => number | null) =>
      `${name} ${text("dbfs", of(nearest.before))} to ${text("dbfs", of(nearest.after))}`;
    return {
      lines: [
        `onset at ${nearest.at_s.toFixed(2)} s`,
        part("transient", (l) => l.transient_dbfs),
        part("body", (l) => l.body_dbfs),
        part("between", (l) => l.between_dbfs),
      ],
    };
  };
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Onsets"
        x={timeAxis(seconds)}
        panes={panes}
        read={read}
        follow={follow}
        onPick={(at) => engine.seek(at)}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
