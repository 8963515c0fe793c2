/** Input level against output level: the formula as a thin line, tones sent through the effect as dots. */
import { valueOf } from "../bench/edits";
import { useChosenStage, usePart } from "../bench/store";
import { effectOf, text } from "../core/core";
import type { CurvePoint } from "../generated/types/CurvePoint";
import { type Fan, useMeasured } from "../measuring/measured";
import { dots, fanShade, strokeLine, tickText } from "../plot/drawing";
import { type Axis, PlotFrame, type Scales } from "../plot/PlotFrame";
import plot from "../plot/plot.module.css";
import { Tag } from "../plot/Tag";
import { FanLabels } from "./FanLabels";
import classes from "./pictures.module.css";

const LOW_DBFS = -60;
/** Every how many dB a measured dot is drawn. */
const DOT_EVERY = 3;

function axisUpTo(high: number): Axis {
  const top = Math.max(0, Math.ceil(high / 12) * 12);
  const ticks = Array.from({ length: (top - LOW_DBFS) / 12 + 1 }, (_, i) => LOW_DBFS + 12 * i);
  return { domain: [LOW_DBFS, top], ticks, format: tickText };
}

/** The measured curves of a fan, from light to dark. */
function drawFan(context: CanvasRenderingContext2D, s: Scales, fan: Fan): void {
  strokeLine(context, [[s.x(LOW_DBFS), s.y(LOW_DBFS)], [s.x(0), s.y(0)]], { colour: "before", width: 1.2, dash: [4, 3] });
  fan.blades.forEach(({ curve }, i) => {
    const points = curve.map((p): [number, number] => [s.x(p.input_dbfs), s.y(p.output_dbfs)]);
    strokeLine(context, points, { colour: "after", width: 1.9, share: fanShade(i, fan.count) });
  });
}

function draw(context: CanvasRenderingContext2D, s: Scales, points: CurvePoint[]): void {
  const at = (x: number, y: number): [number, number] => [s.x(x), s.y(y)];
  strokeLine(context, [at(LOW_DBFS, LOW_DBFS), at(0, 0)], { colour: "before", width: 1.2, dash: [4, 3] });
  const measured = points.filter((p) => p.input_dbfs % DOT_EVERY === 0).map((p) => at(p.input_dbfs, p.output_dbfs));
  dots(context, measured, 4, "after");
  const predicted = points.flatMap((p) => (p.predicted_dbfs === null ? [] : [at(p.input_dbfs, p.predicted_dbfs)]));
  strokeLine(context, predicted, { colour: "ink", width: 1.2 });
}

/** The right end of a curve. */
function endOf(curve: CurvePoint[], s: Scales): [number, number] {
  const last = curve.at(-1);
  return last ? [s.x(last.input_dbfs), s.y(last.output_dbfs)] : [0, -100];
}

export function InToOut() {
  const points = useMeasured((m) => m.curve);
  const opened = useMeasured((m) => m.fan);
  const fan = opened?.blades.some(({ curve }) => curve.length > 0) ? opened : null;
  const id = useMeasured((m) => m.curveId);
  const stale = useMeasured((m) => m.curveId !== m.asked);
  const stage = useChosenStage();
  const spotlight = usePart((d) => d.view.spotlight);
  if (!points || !stage) return <div className={classes.waiting}>Sending tones through the effect…</div>;

  const params = effectOf(stage).params;
  const value = (id: string) => {
    const param = params.find((p) => p.id === id);
    return param ? valueOf(stage, param) : null;
  };
  const threshold = value("threshold_db");
  const knee = value("knee_db") ?? 0;
  const lit = spotlight === "threshold_db";

  const overlay = (s: Scales) => (
    <>
      {threshold !== null && spotlight === "knee_db" && knee > 0 && (
        <rect
          className={plot.band}
          x={s.x(Math.max(LOW_DBFS, threshold - knee / 2))}
          width={s.x(Math.min(0, threshold + knee / 2)) - s.x(Math.max(LOW_DBFS, threshold - knee / 2))}
          y={s.top}
          height={s.bottom - s.top}
        />
      )}
      {threshold !== null && (
        <>
          <line x1={s.x(threshold)} x2={s.x(threshold)} y1={s.top} y2={s.bottom} className={plot.mark} data-lit={lit || undefined} />
          <Tag x={s.x(threshold) - 6} y={s.top + 14} text={`Threshold ${text("dbfs", threshold)}`} lit={lit} />
        </>
      )}
      <text x={s.x(-47)} y={s.y(-44)} className={plot.direct} fill="var(--before)" textAnchor="end">
        before: out = in
      </text>
      {!fan && (
        <text x={s.right - 6} y={s.bottom - 40} textAnchor="end" className={plot.direct} fill="var(--ink)">
          thin line: by the formula
        </text>
      )}
      <text x={s.right - 6} y={s.bottom - 22} textAnchor="end" className={plot.direct} fill="var(--after)">
        {fan ? "fan, light to dark: measured with 1 kHz tones" : "dots: measured with 1 kHz tones"}
      </text>
      <text x={s.right} y={s.bottom - 6} textAnchor="end" className={plot.direct} fill="var(--mute)">
        Input level, dBFS
      </text>
    </>
  );

  const read = (x: number) => {
    const nearest = points.reduce((a, b) => (Math.abs(b.input_dbfs - x) < Math.abs(a.input_dbfs - x) ? b : a));
    const lines = [`in ${text("dbfs", nearest.input_dbfs)}`, `measured ${text("dbfs", nearest.output_dbfs)}`];
    if (nearest.predicted_dbfs !== null) lines.push(`formula ${text("dbfs", nearest.predicted_dbfs)}`);
    lines.push(`gain ${text("db", nearest.output_dbfs - nearest.input_dbfs)}`);
    return { lines };
  };

  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Input against output"
        x={{ domain: [LOW_DBFS, 0], ticks: [-60, -48, -36, -24, -12, 0], format: tickText }}
        panes={[
          {
            title: "Output level, dBFS",
            axis: axisUpTo(Math.max(...[points, ...(fan?.blades.map((b) => b.curve) ?? [])].flat().map((p) => p.output_dbfs))),
            share: 1,
            draw: (context, s) => (fan ? drawFan(context, s, fan) : draw(context, s, points)),
            overlay: (s) => (
              <>
                {overlay(s)}
                {fan && <FanLabels fan={fan} scales={s} at={({ curve }) => endOf(curve, s)} />}
              </>
            ),
          },
        ]}
        read={read}
        version={`${id} ${fan ? `${fan.id} ${fan.blades.length}` : ""}`}
        stale={stale}
      />
    </div>
  );
}
