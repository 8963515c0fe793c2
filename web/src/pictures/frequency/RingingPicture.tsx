/** The impulse response, with what rings before and after its main pulse, and the start of a low note. */
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { strokeLine, tickText, toDbfs } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import classes from "../pictures.module.css";
import { evenAxis } from "./frequency";

/** The impulse response is drawn on a scale of dB from here up: ringing is far below the pulse. */
const FLOOR_DB = -100;
const FROM_MS = -60;
const TO_MS = 60;

const ms = (v: number) => `${tickText(+v.toFixed(1))} ms`;

export function RingingPicture() {
  const shown = useShown("ringing");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const [first] = shown?.responses ?? [];
  if (!shown || !first) return <div className={classes.waiting}>Sending an impulse through the effect…</div>;
  const { attack } = shown;
  const { impulse, impulse_from_ms, impulse_step_ms, ringing } = first;
  const largest = impulse.reduce((a, b) => Math.max(a, Math.abs(b)), 1e-12);
  const level = (v: number) => toDbfs(v / largest, FLOOR_DB);
  const note = (values: number[], s: Scales) =>
    values.map((v, i): [number, number] => [s.x(attack.from_ms + i * attack.step_ms), s.y(v)]);
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Ringing"
        x={{ domain: [FROM_MS, TO_MS], ticks: [-60, -40, -20, 0, 20, 40, 60], format: ms }}
        panes={[
          {
            title: "Impulse response, dB against its peak",
            axis: evenAxis(FLOOR_DB, 0, 20),
            share: 1.1,
            draw: (context, s) => {
              // The highest sample in every column of pixels.
              const columns = new Map<number, number>();
              impulse.forEach((v, i) => {
                const x = Math.round(s.x(impulse_from_ms + i * impulse_step_ms));
                columns.set(x, Math.max(columns.get(x) ?? FLOOR_DB, level(v)));
              });
              const points = [...columns].map(([x, db]): [number, number] => [x, s.y(db)]);
              strokeLine(context, points, { colour: "after", width: 1.6 });
            },
            overlay: (s) => (
              <>
                <line x1={s.x(0)} x2={s.x(0)} y1={s.top} y2={s.bottom} className={plot.mark} />
                <text x={s.x(0) - 8} y={s.top + 16} textAnchor="end" className={plot.direct} fill="var(--after)">
                  ahead:{" "}
                  {ringing.before_db <= -150
                    ? "nothing"
                    : `${text("db", ringing.before_db)} of the energy, ${text("ms", ringing.before_ms)}`}
                </text>
                <text x={s.x(0) + 8} y={s.top + 16} className={plot.direct} fill="var(--after)">
                  behind: {text("db", ringing.after_db)} of the energy, {text("ms", ringing.after_ms)}
                </text>
                <text x={s.x(0) + 8} y={s.top + 34} className={plot.direct} fill="var(--mute)">
                  comes {text("ms", ringing.latency_ms)} late; 0 is where before stands
                </text>
              </>
            ),
          },
          {
            title: `A note of ${text("hz", attack.freq_hz)} that begins at 0`,
            axis: { domain: [-1.25, 1.25], ticks: [-1, 0, 1], format: tickText },
            share: 1,
            draw: (context, s) => {
              strokeLine(context, note(attack.before, s), { colour: "before", width: 1.1, dash: [4, 3] });
              strokeLine(context, note(attack.after, s), { colour: "after", width: 2.2 });
            },
            overlay: (s) => (
              <>
                <line x1={s.x(0)} x2={s.x(0)} y1={s.top} y2={s.bottom} className={plot.mark} />
                <text x={s.left + 6} y={s.top + 14} className={plot.direct} fill="var(--after)">
                  {attack.ahead_db === null
                    ? "nothing is heard ahead of it"
                    : `heard ahead of it: up to ${text("db", attack.ahead_db)}`}
                </text>
              </>
            ),
          },
        ]}
        read={(x) => {
          const sample = impulse[Math.round((x - impulse_from_ms) / impulse_step_ms)] ?? 0;
          const at = Math.round((x - attack.from_ms) / attack.step_ms);
          const value = (v: number | undefined) => text("signed", v ?? 0);
          return {
            lines: [
              ms(x),
              `impulse ${text("db", level(sample))}`,
              `note before ${value(attack.before[at])}, after ${value(attack.after[at])}`,
            ],
          };
        }}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
