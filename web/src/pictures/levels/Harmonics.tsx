/** What the effect adds to a low tone: its harmonics, against the tone. */
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import classes from "../pictures.module.css";

const FLOOR_DB = -100;
const BAR = 9;

export function Harmonics() {
  const shown = useShown("harmonics");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>Sending a low tone through the effect…</div>;
  const { freq_hz, thd, harmonics_db, fundamental_dbfs } = shown.distortion;
  const levels = [0, ...harmonics_db];
  const ticks = [1, 2, 3, 5, 7, 9, 11, 13, 15, 17, 19].filter((n) => n <= levels.length);
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Harmonics"
        x={{ domain: [0.4, levels.length + 0.6], ticks, format: tickText }}
        panes={[
          {
            title: "Level against the tone, dB",
            axis: { domain: [FLOOR_DB, 0], ticks: [0, -20, -40, -60, -80, -100], format: tickText },
            share: 1,
            draw: (context, s) => {
              levels.forEach((db, i) => {
                const y = s.y(Math.max(FLOOR_DB, db ?? FLOOR_DB));
                context.fillStyle = token(i === 0 ? "before" : "after");
                context.fillRect(s.x(i + 1) - BAR / 2, y, BAR, s.bottom - y);
              });
            },
            overlay: (s) => (
              <>
                <text x={s.x(1) + 10} y={s.top + 14} className={plot.direct} fill="var(--before)">
                  the tone: {text("hz", freq_hz)}, {text("dbfs", fundamental_dbfs)} after the effect
                </text>
                <text x={s.right - 6} y={s.top + 34} textAnchor="end" className={plot.direct} fill="var(--after)">
                  total harmonic distortion {text("fine-percent", thd)}
                </text>
                <text x={s.right} y={s.bottom - 6} textAnchor="end" className={plot.direct} fill="var(--mute)">
                  Harmonic
                </text>
              </>
            ),
          },
        ]}
        read={(x) => {
          const n = Math.min(levels.length, Math.max(1, Math.round(x)));
          return { lines: [`harmonic ${n}, ${text("hz", n * freq_hz)}`, text("db", levels[n - 1] ?? null)] };
        }}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
