/** The delay of every voice over time, and the pitch that follows from it: by the formula, and measured from a tone by its phase. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { dots, fanShade, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { useHeardPlace } from "../follow";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";

/** Steps of an axis, and how many of them there are at most. */
const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
const MOST_STEPS = 6;

/** An axis around some values, with round ends. */
function axisAround(values: number[], least: number): Axis {
  const [low, high] = [Math.min(...values), Math.max(...values)];
  const step = STEPS.find((each) => Math.max(high - low, least) / each <= MOST_STEPS - 2) ?? 2000;
  const domain: [number, number] = [
    Math.floor(low / step) * step,
    Math.max(Math.ceil(high / step), Math.floor(low / step) + 1) * step,
  ];
  const ticks = Array.from(
    { length: Math.round((domain[1] - domain[0]) / step) + 1 },
    (_, i) => +(domain[0] + i * step).toFixed(4),
  );
  return { domain, ticks, format: tickText };
}

export function DelayAndPitch() {
  const shown = useShown("delay-and-pitch");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const follow = useHeardPlace();
  if (!shown?.view)
    return <div className={classes.waiting}>{shown ? "No delay sways in this stage." : "Measuring the pitch…"}</div>;
  const { seconds, whole, voices, measured_cents: measured, from_s, every_s } = shown.view;
  const line = (s: Scales, values: number[]) =>
    values.map((v, i): [number, number] => [s.left + ((i + 0.5) / values.length) * (s.right - s.left), s.y(v)]);
  const at = (k: number) => from_s + k * every_s;
  const delays = voices.flatMap((voice) => voice.delay_ms);
  const cents = [...voices.flatMap((voice) => voice.cents), 0];
  const part = whole ? "" : `, the first ${text("fine-s", seconds)}`;
  const many = voices.length > 1 ? `the ${voices.length} voices, from the first, dark, on` : "the moving sound";
  const draw = (context: CanvasRenderingContext2D, s: Scales, of: (voice: (typeof voices)[number]) => number[]) =>
    voices.forEach((voice, i) =>
      strokeLine(context, line(s, of(voice)), {
        colour: "after",
        width: 1.8,
        share: 1.32 - fanShade(i, voices.length),
      }),
    );
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Delay and pitch"
        x={timeAxis(seconds)}
        panes={[
          {
            title: `Delay of ${many}, left side, ms${part}`,
            axis: axisAround(delays, 0.2),
            share: 1,
            draw: (context, s) => draw(context, s, (voice) => voice.delay_ms),
          },
          {
            title: `Pitch that follows from it, cents${voices.length > 1 ? "; dots: the first voice, alone, measured" : "; dots: measured"} from a tone by its phase`,
            axis: axisAround(cents, 4),
            share: 1,
            draw: (context, s) => {
              draw(context, s, (voice) => voice.cents);
              const every = Math.max(1, Math.ceil((measured.length * 5) / (s.right - s.left)));
              const [low, high] = s.y.domain() as [number, number];
              dots(
                context,
                measured.flatMap((v, k): [number, number][] =>
                  v !== null && k % every === 0 && at(k) <= seconds && v >= low && v <= high
                    ? [[s.x(at(k)), s.y(v)]]
                    : [],
                ),
                2,
                "spotlight-mark",
              );
            },
            overlay: (s) => <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />,
          },
        ]}
        read={(x) => {
          const i = (values: number[]) =>
            values[Math.min(values.length - 1, Math.max(0, Math.floor((x / seconds) * values.length)))] ?? null;
          const k = Math.round((x - from_s) / every_s);
          return {
            lines: [
              text("fine-s", x),
              ...voices.map(
                (voice, v) =>
                  `${voices.length > 1 ? `voice ${v + 1}: ` : ""}${text("fine-ms", i(voice.delay_ms))}, ${text("cents", i(voice.cents))}`,
              ),
              ...(typeof measured[k] === "number" ? [`measured ${text("cents", measured[k])}`] : []),
            ],
          };
        }}
        follow={follow}
        onPick={(place) => engine.seek(place)}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
