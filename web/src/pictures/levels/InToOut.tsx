/** Input level against output level: the formula as a thin line, tones sent through the effect as dots. */
import { usePart, usePicturedStage } from "../../bench/store";
import { text } from "../../core/core";
import type { CurvePoint } from "../../generated/types/CurvePoint";
import type { Histogram } from "../../generated/types/Histogram";
import type { Fan } from "../../measuring/bendWorkers";
import { useMeasured, useShown } from "../../measuring/measured";
import type { HandleOf } from "../../plot/Handle";
import { dots, fanShade, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { Tag } from "../../plot/Tag";
import { token } from "../../theme/theme";
import { FanLabels } from "../FanLabels";
import { useBendingLevel, useHandle } from "../handles";
import classes from "../pictures.module.css";

const LOW_DBFS = -60;
/** Every how many dB a measured dot is drawn. */
const DOT_EVERY = 3;
/** Height of the source's most frequent level, as a share of the picture. */
const LEVELS_SHARE = 0.18;
/** From this width on, the end of the knee is far enough from the threshold to be taken hold of by itself. */
const LARGE_KNEE_DB = 6;

function axisUpTo(high: number): Axis {
  const top = Math.max(0, Math.ceil(high / 12) * 12);
  const ticks = Array.from({ length: (top - LOW_DBFS) / 12 + 1 }, (_, i) => LOW_DBFS + 12 * i);
  return { domain: [LOW_DBFS, top], ticks, format: tickText };
}

/** The levels that the source has, along the axis: how much of the time, as heights. */
function drawLevels(context: CanvasRenderingContext2D, s: Scales, { lowest_dbfs, bin_db, shares }: Histogram): void {
  const shown = shares
    .map((share, i) => ({ share, from: lowest_dbfs + i * bin_db }))
    .filter(({ from }) => from >= LOW_DBFS && from < 0);
  const most = Math.max(1e-9, ...shown.map(({ share }) => share));
  context.fillStyle = token("rule");
  for (const { share, from } of shown) {
    const height = (LEVELS_SHARE * (s.bottom - s.top) * share) / most;
    context.fillRect(s.x(from) + 0.5, s.bottom - height, s.x(from + bin_db) - s.x(from) - 1, height);
  }
}

/** The measured curves of a fan, from light to dark. */
function drawFan(context: CanvasRenderingContext2D, s: Scales, fan: Fan): void {
  strokeLine(
    context,
    [
      [s.x(LOW_DBFS), s.y(LOW_DBFS)],
      [s.x(0), s.y(0)],
    ],
    { colour: "before", width: 1.2, dash: [4, 3] },
  );
  fan.blades.forEach(({ curve }, i) => {
    const points = curve.flatMap((p): [number, number][] =>
      p.output_dbfs === null ? [] : [[s.x(p.input_dbfs), s.y(p.output_dbfs)]],
    );
    strokeLine(context, points, { colour: "after", width: 1.9, share: fanShade(i, fan.count) });
  });
}

function draw(context: CanvasRenderingContext2D, s: Scales, points: CurvePoint[]): void {
  const at = (x: number, y: number): [number, number] => [s.x(x), s.y(y)];
  strokeLine(context, [at(LOW_DBFS, LOW_DBFS), at(0, 0)], { colour: "before", width: 1.2, dash: [4, 3] });
  const measured = points.flatMap((p) =>
    p.input_dbfs % DOT_EVERY === 0 && p.output_dbfs !== null ? [at(p.input_dbfs, p.output_dbfs)] : [],
  );
  dots(context, measured, 4, "after");
  const predicted = points.flatMap((p) => (p.predicted_dbfs === null ? [] : [at(p.input_dbfs, p.predicted_dbfs)]));
  strokeLine(context, predicted, { colour: "ink", width: 1.2 });
  const asked = points.flatMap((p) => (p.asked_dbfs === null ? [] : [at(p.input_dbfs, p.asked_dbfs)]));
  if (asksOtherwise(points)) strokeLine(context, asked, { colour: "gain", width: 1, dash: [1.5, 3] });
}

/** From this difference on, what the detector asks for is drawn beside what leaves the stage, dB. */
const OTHERWISE_DB = 0.05;

/** Whether mix and output gain make something else of what the detector asks for. */
function asksOtherwise(points: CurvePoint[]): boolean {
  return points.some(
    ({ asked_dbfs: asked, predicted_dbfs: whole }) =>
      asked !== null && whole !== null && Math.abs(asked - whole) > OTHERWISE_DB,
  );
}

/** The right end of a curve. */
function endOf(curve: CurvePoint[], s: Scales): [number, number] {
  const last = curve.at(-1);
  return last && last.output_dbfs !== null ? [s.x(last.input_dbfs), s.y(last.output_dbfs)] : [0, -100];
}

export function InToOut() {
  const shown = useShown("in-to-out");
  const points = shown?.points;
  const opened = useMeasured((m) => m.fan);
  const fan = opened?.blades.some(({ curve }) => curve.length > 0) ? opened : null;
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const { stage } = usePicturedStage();
  const spotlight = usePart((d) => d.view.spotlight);
  const bending = useBendingLevel();
  const level = useHandle(bending?.param, "x");
  const kneeHandle = useHandle(bending?.knee, "x");
  if (!points || !stage) return <div className={classes.waiting}>Sending tones through the effect…</div>;

  const threshold = bending?.value ?? null;
  const knee = kneeHandle?.value ?? 0;
  const lit = spotlight === bending?.param.id;
  // The upper end of the knee is what is taken hold of.
  const kneeEnd: HandleOf | null =
    kneeHandle && threshold !== null
      ? { ...kneeHandle, toAxis: (v) => threshold + v / 2, fromAxis: (at) => 2 * Math.max(0, at - threshold) }
      : null;
  const handles = [level, spotlight === bending?.knee?.id || knee >= LARGE_KNEE_DB ? kneeEnd : null].filter(
    (handle) => handle !== null,
  );

  const overlay = (s: Scales) => (
    <>
      {threshold !== null && spotlight === bending?.knee?.id && knee > 0 && (
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
          <line
            x1={s.x(threshold)}
            x2={s.x(threshold)}
            y1={s.top}
            y2={s.bottom}
            className={plot.mark}
            data-lit={lit || undefined}
          />
          <Tag
            x={s.x(threshold) - 6}
            y={s.top + 14}
            text={`${bending?.param.label} ${text("dbfs", threshold)}`}
            lit={lit}
          />
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
      {!fan && asksOtherwise(points) && (
        <text x={s.right - 6} y={s.bottom - 58} textAnchor="end" className={plot.direct} fill="var(--gain)">
          dotted: what the detector alone asks for
        </text>
      )}
      <text x={s.right - 6} y={s.bottom - 22} textAnchor="end" className={plot.direct} fill="var(--after)">
        {fan ? "fan, light to dark: measured with 1 kHz tones" : "dots: measured with 1 kHz tones"}
      </text>
      <text x={s.left + 6} y={s.bottom - 6} className={plot.direct} fill="var(--mute)">
        bars: how often the source has this level (RMS)
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
    if (nearest.asked_dbfs !== null && asksOtherwise(points))
      lines.push(`detector asks for ${text("dbfs", nearest.asked_dbfs)}`);
    if (nearest.output_dbfs !== null) lines.push(`gain ${text("db", nearest.output_dbfs - nearest.input_dbfs)}`);
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
            axis: axisUpTo(
              Math.max(...[points, ...(fan?.blades.map((b) => b.curve) ?? [])].flat().map((p) => p.output_dbfs ?? 0)),
            ),
            share: 1,
            handles,
            draw: (context, s) => {
              drawLevels(context, s, shown.before);
              if (fan) drawFan(context, s, fan);
              else draw(context, s, points);
            },
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
