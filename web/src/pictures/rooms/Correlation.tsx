/** How alike left and right are in a room, over time and by octave. */
import { text } from "../../core/core";
import { strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { evenAxis, shortHz } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useRoom, waitingText } from "./room";

/** What is shown of a longer response, s. */
const MOST_S = 3;
/** Bars stand so far apart, pixels. */
const GAP = 12;

export function CorrelationPicture() {
  const { view, drawn, fanned, version, stale } = useRoom("correlation");
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { octaves } = view;
  const seconds = Math.min(MOST_S, Math.max(0.2, view.seconds));
  const whole = view.correlation;
  const at = (x: number) => Math.min(octaves.length - 1, Math.max(0, Math.floor(x)));
  return (
    <div className={classes.stacked}>
      <div className={classes.picture}>
        <PlotFrame
          label="Correlation over time"
          x={timeAxis(seconds)}
          panes={[
            {
              title: "Over time: 1 mono, 0 nothing in common",
              axis: evenAxis(-1, 1, 0.5),
              share: 1,
              draw: (context, s) =>
                drawn.forEach((each) => {
                  const points = each.view.correlations
                    .filter((point) => point.at_s <= seconds)
                    .map((point): [number, number] => [s.x(point.at_s), s.y(point.correlation)]);
                  strokeLine(context, points, { colour: "after", width: 1.8, share: each.share });
                }),
              overlay: (s) => (
                <text x={s.right - 6} y={s.top + 12} textAnchor="end" className={plot.direct} fill="var(--after)">
                  {fanned ? "fan: light to dark" : `all of it: ${text("signed", whole)}`}
                </text>
              ),
            },
          ]}
          read={(x) => ({
            lines: [
              text("ms", 1000 * x),
              `correlation ${text("signed", view.correlations.findLast((point) => point.at_s <= x)?.correlation ?? null)}`,
            ],
          })}
          version={version}
          stale={stale}
        />
      </div>
      <div className={classes.picture}>
        <PlotFrame
          label="Correlation by octave"
          x={{
            domain: [0, octaves.length],
            ticks: octaves.map((_, i) => i + 0.5),
            format: (x) => shortHz(octaves[at(x)]?.freq_hz ?? 0),
          }}
          panes={[
            {
              title: "By octave",
              axis: evenAxis(-1, 1, 1),
              share: 1,
              draw: (context, s) => {
                context.fillStyle = token("after-fill");
                octaves.forEach(({ correlation }, i) => {
                  if (correlation === null) return;
                  const [top, foot] = [s.y(Math.max(0, correlation)), s.y(Math.min(0, correlation))];
                  context.fillRect(s.x(i) + GAP / 2, top, s.x(i + 1) - s.x(i) - GAP, Math.max(1.5, foot - top));
                });
              },
            },
          ]}
          read={(x) => ({
            lines: [
              `octave at ${text("hz", octaves[at(x)]?.freq_hz ?? null)}`,
              `correlation ${text("signed", octaves[at(x)]?.correlation ?? null)}`,
            ],
          })}
          version={version}
          stale={stale}
        />
      </div>
    </div>
  );
}
