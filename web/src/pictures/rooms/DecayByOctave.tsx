/** The decay time of every octave as it is measured, with how far one response scatters, and as it is set. */
import { text } from "../../core/core";
import type { OctaveDecay } from "../../generated/types/OctaveDecay";
import { strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { shortHz } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { useRoom, useSetDecays, waitingText } from "./room";

/** Bars stand so far apart, pixels. */
const GAP = 14;

const timeOf = (octave: OctaveDecay | undefined) => octave?.times.t30?.seconds ?? octave?.times.t20?.seconds ?? null;

function bar(context: CanvasRenderingContext2D, s: Scales, place: number, octave: OctaveDecay): void {
  const seconds = timeOf(octave);
  if (seconds === null) return;
  const [left, right] = [s.x(place) + GAP / 2, s.x(place + 1) - GAP / 2];
  context.fillStyle = token("after-fill");
  context.fillRect(left, s.y(seconds), right - left, s.bottom - s.y(seconds));
  if (octave.scatter === null) return;
  const [middle, out] = [(left + right) / 2, seconds * octave.scatter];
  strokeLine(
    context,
    [
      [middle, s.y(seconds - out)],
      [middle, s.y(seconds + out)],
    ],
    { colour: "ink", width: 1.4 },
  );
}

export function DecayByOctave() {
  const { view, drawn, fanned, version, stale } = useRoom("decay-by-octave");
  const sets = useSetDecays(view?.octaves.map((octave) => octave.freq_hz) ?? []);
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { octaves } = view;
  const count = octaves.length;
  const times = [...drawn.flatMap((each) => each.view.octaves.map(timeOf)), ...sets];
  const most = Math.max(0.2, ...times.map((time) => time ?? 0)) * 1.15;
  const step = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10].find((each) => most / each <= 7) ?? 10;
  const at = (x: number) => Math.min(count - 1, Math.max(0, Math.floor(x)));
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Decay by octave"
        x={{
          domain: [0, count],
          ticks: octaves.map((_, i) => i + 0.5),
          format: (x) => shortHz(octaves[at(x)]?.freq_hz ?? 0),
        }}
        panes={[
          {
            title: "Time to fall by 60 dB (T30, or T20 where the range is small), s",
            axis: {
              domain: [0, most],
              ticks: Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => +(i * step).toFixed(3)),
              format: tickText,
            },
            share: 1,
            draw: (context, s) => {
              if (fanned) {
                drawn.forEach((each) => {
                  const points = each.view.octaves.flatMap((octave, i): [number, number][] => {
                    const time = timeOf(octave);
                    return time === null ? [] : [[s.x(i + 0.5), s.y(time)]];
                  });
                  strokeLine(context, points, { colour: "after", width: 2, share: each.share });
                });
              } else octaves.forEach((octave, i) => bar(context, s, i, octave));
              sets.forEach((set, i) => {
                if (set)
                  strokeLine(
                    context,
                    [
                      [s.x(i) + 4, s.y(set)],
                      [s.x(i + 1) - 4, s.y(set)],
                    ],
                    { colour: "before", width: 2, dash: [5, 3] },
                  );
              });
            },
            overlay: (s) => (
              <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--mute)">
                {fanned ? "fan: light to dark" : "bars: measured, with what one response scatters"}
                {sets.length > 0 && <tspan fill="var(--before)">; dashed: set</tspan>}
              </text>
            ),
          },
        ]}
        read={(x) => {
          const octave = octaves[at(x)];
          const why = octave?.times.why;
          return {
            lines: [
              `octave at ${text("hz", octave?.freq_hz ?? null)}`,
              `measured ${text("fine-s", timeOf(octave))}`,
              ...(sets.length > 0 ? [`set ${text("fine-s", sets[at(x)] ?? null)}`] : []),
              `EDT ${text("fine-s", octave?.times.edt?.seconds ?? null)}`,
              ...(why ? [why] : []),
            ],
          };
        }}
        version={`${version} ${sets.join()}`}
        stale={stale}
      />
    </div>
  );
}
