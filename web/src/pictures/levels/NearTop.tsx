/** What the plain formula makes of the same settings: how much narrower curves get near the top. */
import { useMemo } from "react";

import { withValue } from "../../bench/edits";
import { usePicturedStage } from "../../bench/store";
import { curvesOf, effectOf, logFreqs, paramNamed, text } from "../../core/core";
import { useMeasured } from "../../measuring/measured";
import { strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { curveLine, evenAxis, hzAt, placeOf } from "../frequency/frequency";
import classes from "../pictures.module.css";

/** The lowest of the usual rates, where there is the least room. */
const RATE_HZ = 44_100;
/** So far over it, the plain formula is the analogue filter itself. */
const ANALOGUE_HZ = 192_000;
const FROM_HZ = 1000;
const TO_HZ = 20_000;
const POINTS = 300;

export function NearTop() {
  const { stage } = usePicturedStage();
  const asked = useMeasured((m) => m.asked);
  const curves = useMemo(() => {
    const formula = stage && paramNamed(effectOf(stage), "formula");
    if (!stage || !formula) return null;
    const freqs = logFreqs(FROM_HZ, TO_HZ, POINTS);
    const gains = (value: number, rateHz: number) =>
      curvesOf(withValue(stage, formula, value), freqs, rateHz)?.sums[0]?.gains_db ?? [];
    return { ours: gains(0, RATE_HZ), plain: gains(1, RATE_HZ), analogue: gains(0, ANALOGUE_HZ) };
  }, [stage]);
  if (!curves) return <div className={classes.waiting}>This effect has no curve over frequency.</div>;
  const { ours, plain, analogue } = curves;
  const apart = (values: number[]) => values.map((db, i) => db - (analogue[i] ?? 0));
  const worst = (values: number[]) =>
    apart(values).reduce((a, b, i) => ((analogue[i] ?? -99) > -40 ? Math.max(a, Math.abs(b)) : a), 0);
  const highest = Math.max(6, ...[...ours, ...analogue].map((db) => Math.min(30, Math.abs(db))));
  const reach = Math.ceil(highest / 6) * 6;
  const line = (values: number[], s: Scales) =>
    curveLine(
      values.map((db) => Math.max(-60, Math.min(60, db))),
      s,
    );
  const at = (x: number) =>
    Math.min(
      POINTS - 1,
      Math.max(0, Math.round((Math.log(hzAt(x) / FROM_HZ) / Math.log(TO_HZ / FROM_HZ)) * (POINTS - 1))),
    );
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Top end"
        x={{
          domain: [placeOf(FROM_HZ), placeOf(TO_HZ)],
          ticks: [1000, 2000, 5000, 10_000, 15_000, 20_000].map(placeOf),
          format: (place) => `${Math.round(hzAt(place) / 1000)}k`,
        }}
        panes={[
          {
            title: "Gain at 44.1 kHz, dB",
            axis: evenAxis(-reach, reach, reach / 3),
            share: 1.3,
            draw: (context, s) => {
              strokeLine(context, line(analogue, s), { colour: "ink", width: 1.2 });
              strokeLine(context, line(plain, s), { colour: "difference", width: 2, dash: [2, 3] });
              strokeLine(context, line(ours, s), { colour: "after", width: 2.6, share: 0.8 });
            },
            overlay: (s) => (
              <>
                <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />
                <text x={s.left + 8} y={s.top + 16} className={plot.direct} fill="var(--ink)">
                  thin line: the analogue filter
                </text>
                <text x={s.left + 8} y={s.bottom - 26} className={plot.direct} fill="var(--after)">
                  true: within {text("db", worst(ours))} up to 20 kHz
                </text>
                <text x={s.left + 8} y={s.bottom - 8} className={plot.direct} fill="var(--difference)">
                  plain formula (dotted): up to {text("db", worst(plain))} away
                </text>
              </>
            ),
          },
          {
            title: "Away from the analogue filter, dB",
            axis: evenAxis(-6, 6, 6),
            share: 0.7,
            draw: (context, s) => {
              strokeLine(context, line(apart(plain), s), { colour: "difference", width: 2, dash: [2, 3] });
              strokeLine(context, line(apart(ours), s), { colour: "after", width: 2.6, share: 0.8 });
            },
            overlay: (s) => <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />,
          },
        ]}
        read={(x) => {
          const i = at(x);
          return {
            lines: [
              text("hz", hzAt(x)),
              `analogue ${text("db", analogue[i] ?? null)}`,
              `true ${text("db", ours[i] ?? null)}`,
              `plain formula ${text("db", plain[i] ?? null)}`,
            ],
          };
        }}
        version={String(asked)}
      />
    </div>
  );
}
