/** The phase by the formula and as measured, and by how much every frequency is late. */

import { usePicturedStage } from "../../bench/store";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import plot from "../../plot/plot.module.css";
import { curveLine, evenAxis, FREQUENCY_AXIS, freqText, hzAt, pointAt, stageCurves } from "./frequency";
import classes from "../pictures.module.css";

/** Round steps of an axis so that it holds some values. */
function axisOf(values: (number | null)[], steps: number[], least: number) {
  const heard = values.filter((v): v is number => v !== null && Number.isFinite(v));
  const [low, high] = [Math.min(0, ...heard), Math.max(least, ...heard)];
  const step = steps.find((s) => (high - low) / s <= 6) ?? steps.at(-1) ?? 1;
  return evenAxis(Math.floor(low / step) * step, Math.ceil(high / step) * step, step);
}

export function PhasePicture() {
  const { stage } = usePicturedStage();
  const shown = useShown("phase");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const curves = stage ? stageCurves(stage) : null;
  if (!shown || !curves) return <div className={classes.waiting}>Sending an impulse through the effect…</div>;
  const { responses } = shown;
  const phases = responses.flatMap((r) => r.phases_deg);
  const delays = responses.flatMap((r) => r.group_delays_ms);
  const [first] = responses;
  const late = first?.ringing.latency_ms ?? 0;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Phase"
        x={FREQUENCY_AXIS}
        panes={[
          {
            title: "Phase, degrees",
            axis: axisOf(phases, [15, 30, 45, 90, 180, 360, 720, 1440], 45),
            share: 1,
            draw: (context, s) => {
              responses.forEach((r) =>
                strokeLine(context, curveLine(r.phases_deg, s), { colour: "after", width: 3, share: 0.75 }),
              );
              curves.sums.forEach((sum) =>
                strokeLine(context, curveLine(sum.phases_deg, s), { colour: "ink", width: 1.2 }),
              );
            },
            overlay: (s) => (
              <>
                <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />
                <text x={s.right - 6} y={s.bottom - 8} textAnchor="end" className={plot.direct} fill="var(--mute)">
                  thin line: by the formula; thick: measured, the delay of {text("ms", late)} taken out
                </text>
              </>
            ),
          },
          {
            title: "Group delay, ms",
            axis: axisOf(delays, [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200], 0.5),
            share: 1,
            draw: (context, s) =>
              responses.forEach((r) =>
                strokeLine(context, curveLine(r.group_delays_ms, s), { colour: "after", width: 2.2 }),
              ),
            overlay: (s) => <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />,
          },
        ]}
        read={(x) => {
          const at = pointAt(x);
          const rows = responses.flatMap((r) => [
            `phase ${tickText(Math.round(r.phases_deg[at] ?? 0))}°`,
            `late by ${text("ms", r.group_delays_ms[at] ?? 0)}`,
          ]);
          return { lines: [freqText(hzAt(x)), ...rows] };
        }}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
