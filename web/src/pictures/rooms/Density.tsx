/** How dense the echoes of a room are over time, against noise, and how many there are. */
import { text } from "../../core/core";
import type { DensityPoint } from "../../generated/types/DensityPoint";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useRoom, waitingText } from "./room";

/** The shortest and the longest time that is shown, s. */
const LEAST_S = 0.3;
const MOST_S = 2;
/** Echoes per second are drawn from here, on a logarithmic axis. */
const FEW = 10;
const MANY = 20_000;

export function DensityPicture() {
  const { view, drawn, fanned, version, stale } = useRoom("density");
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const reached = drawn.map((each) => each.view.dense_ms);
  const seconds = Math.min(MOST_S, Math.max(LEAST_S, ...reached.map((ms) => (ms === null ? MOST_S : (3 * ms) / 1000))));
  const line = (points: DensityPoint[], s: Scales, of: (point: DensityPoint) => number) =>
    points.filter((point) => point.at_s <= seconds).map((point): [number, number] => [s.x(point.at_s), s.y(of(point))]);
  const place = (perS: number) => Math.log10(Math.max(FEW, perS));
  const at = (x: number) => view.density.findLast((point) => point.at_s <= x);
  const dense = view.dense_ms;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Density"
        x={timeAxis(seconds)}
        panes={[
          {
            title: "Echo density: 0 single echoes, 1 noise",
            axis: { domain: [0, 1.3], ticks: [0, 0.25, 0.5, 0.75, 1], format: tickText },
            share: 1.3,
            draw: (context, s) =>
              drawn.forEach((each) =>
                strokeLine(
                  context,
                  line(each.view.density, s, (point) => point.density),
                  { colour: "after", width: 2, share: each.share },
                ),
              ),
            overlay: (s) => (
              <>
                <line x1={s.left} x2={s.right} y1={s.y(1)} y2={s.y(1)} className={plot.mark} />
                <text x={s.right - 6} y={s.top + 12} textAnchor="end" className={plot.direct} fill="var(--after)">
                  {fanned
                    ? "fan: light to dark"
                    : dense === null
                      ? "never as dense as noise"
                      : `as dense as noise ${text("ms", dense)} after its first sound`}
                </text>
              </>
            ),
          },
          {
            title: "Echoes per second that can be told apart",
            axis: {
              domain: [place(FEW), place(MANY)],
              ticks: [10, 100, 1000, 10_000].map(place),
              format: (v) => tickText(Math.round(10 ** v)),
            },
            share: 0.8,
            draw: (context, s) =>
              drawn.forEach((each) =>
                strokeLine(
                  context,
                  line(each.view.density, s, (point) => place(point.per_s)),
                  { colour: "after", width: 1.6, share: each.share },
                ),
              ),
          },
        ]}
        read={(x) => {
          const point = at(x);
          return {
            lines: [
              text("ms", 1000 * x),
              `density ${text("signed", point?.density ?? null)}`,
              `${text("count", point?.per_s ?? null)} echoes per second`,
            ],
          };
        }}
        version={version}
        stale={stale}
      />
    </div>
  );
}
