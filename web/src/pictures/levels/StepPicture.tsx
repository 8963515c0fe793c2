/** The gain of a stage when a tone steps up and down again, with the measured times marked. */
import { text } from "../../core/core";
import type { StepSide } from "../../generated/types/StepSide";
import { useMeasured, useShown } from "../../measuring/measured";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis, Pane } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import classes from "../pictures.module.css";

/** Steps between ticks, ms. */
const STEPS_MS = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000];

function timeAxis(side: StepSide): Axis {
  const end = side.trace_from_ms + side.trace_step_ms * (side.trace_db.length - 1);
  const step = STEPS_MS.find((ms) => end / ms <= 8) ?? 50_000;
  const ticks = Array.from({ length: Math.floor(end / step) + 1 }, (_, i) => i * step);
  return { domain: [side.trace_from_ms, end], ticks, format: (v) => text("ms", v) };
}

function gainAxis(sides: StepSide[]): Axis {
  const lowest = Math.min(...sides.flatMap((side) => side.trace_db));
  const deepest = Math.max(6, Math.ceil(-lowest / 6) * 6);
  return { domain: [-deepest, 0], ticks: [0, -deepest / 2, -deepest], format: tickText };
}

interface Mark {
  name: string;
  ms: number | null;
}

function marksOf(side: StepSide, standard: string): Mark[] {
  return [
    { name: "63 %", ms: side.to_63_ms },
    { name: standard, ms: side.standard_ms },
    { name: "95 %", ms: side.to_95_ms },
  ];
}

interface SideProps {
  label: string;
  title: string;
  side: StepSide;
  axis: Axis;
  standard: string;
  version: string;
  stale: boolean;
}

function Side({ label, title, side, axis, standard, version, stale }: SideProps) {
  const marks = marksOf(side, standard);
  const at = (ms: number) =>
    side.trace_db[Math.max(0, Math.round((ms - side.trace_from_ms) / side.trace_step_ms))] ?? 0;
  const last = Math.max(...marks.map(({ ms }) => ms ?? 0));
  // Where the gain does not run: a rising one ends at the top.
  const rises = side.to_db > side.from_db;
  const overlay = (s: Scales) => (
    <>
      <line x1={s.x(0)} x2={s.x(0)} y1={s.top} y2={s.bottom} className={plot.mark} />
      <text x={s.x(0) - 5} y={s.bottom - 6} textAnchor="end" className={plot.direct} fill="var(--mute)">
        step
      </text>
      {!side.settled && (
        <text x={s.right - 6} y={s.top + 16} textAnchor="end" className={plot.direct} fill="var(--ink)">
          not at rest after {text("s", side.held_s)}: no times
        </text>
      )}
      {marks.map(
        ({ name, ms }, i) =>
          ms !== null && (
            <text
              key={name}
              x={Math.min(s.x(last) + 10, s.right - 150)}
              y={rises ? s.bottom - 40 + 16 * i : s.top + 16 + 16 * i}
              className={plot.direct}
              fill="var(--ink)"
            >
              {name} after {text("ms", ms)}
            </text>
          ),
      )}
      {marks.map(
        ({ name, ms }, i) =>
          ms !== null && (
            <g key={name}>
              <line
                x1={s.x(ms)}
                x2={s.x(ms)}
                y1={s.top}
                y2={s.y(at(ms))}
                className={plot.mark}
                data-lit={i === 0 || undefined}
              />
              <circle cx={s.x(ms)} cy={s.y(at(ms))} r={4} fill="var(--gain)" />
            </g>
          ),
      )}
    </>
  );
  const pane: Pane = {
    title,
    axis,
    share: 1,
    draw: (context, s) => {
      const points = side.trace_db.map((db, i): [number, number] => [
        s.x(side.trace_from_ms + i * side.trace_step_ms),
        s.y(db),
      ]);
      strokeLine(context, points, { colour: "gain", width: 2.2 });
    },
    overlay,
  };
  const read = (ms: number) => ({ lines: [text("ms", Math.max(0, ms)), `gain ${text("db", at(ms))}`] });
  return <PlotFrame label={label} x={timeAxis(side)} panes={[pane]} read={read} version={version} stale={stale} />;
}

export function StepPicture() {
  const shown = useShown("step");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>Sending a step through the effect…</div>;
  const { response } = shown;
  if (!response) return <div className={classes.waiting}>This effect has no gain that moves with the level.</div>;
  const axis = gainAxis([response.up, response.down]);
  const [quiet, loud] = [text("dbfs", response.step.quiet_dbfs), text("dbfs", response.step.loud_dbfs)];
  const common = { axis, version: String(id), stale };
  return (
    <div className={classes.stacked}>
      <Side
        {...common}
        label="Step up"
        title={`Gain, dB: a 1 kHz tone steps from ${quiet} to ${loud}`}
        side={response.up}
        standard="within 3 dB"
      />
      <Side
        {...common}
        label="Step down"
        title={`Gain, dB: it steps back to ${quiet}`}
        side={response.down}
        standard="within 4 dB"
      />
    </div>
  );
}
