/** A designed response as it is: its wave on both sides, and how long every octave rings, measured against drawn. */
import { text } from "../../../core/core";
import type { DesignView } from "../../../generated/types/DesignView";
import { shortHz } from "../../../pictures/frequency/frequency";
import { timeAxis } from "../../../pictures/shared";
import { drawWave, strokeLine, tickText } from "../../../plot/drawing";
import { PlotFrame } from "../../../plot/PlotFrame";
import type { Pane } from "../../../plot/panes";
import { token } from "../../../theme/theme";
import classes from "./design.module.css";

interface Props {
  view: DesignView;
  stale: boolean;
}

export function DesignWave({ view, stale }: Props) {
  const largest = Math.max(1e-6, ...view.waves.flatMap((wave) => wave.flatMap(([low, high]) => [-low, high])));
  const side = (which: 0 | 1, title: string): Pane => ({
    title,
    axis: { domain: [-1.05 * largest, 1.05 * largest], ticks: [0], format: tickText },
    share: 1,
    draw: (context, s) => drawWave(context, s, view.waves[which], "after-fill", { colour: "after", width: 0.8 }),
  });
  return (
    <div className={classes.wave}>
      <PlotFrame
        label="Wave of the response"
        x={timeAxis(view.seconds)}
        panes={[side(0, "Wave, left"), side(1, "Wave, right")]}
        read={(at) => {
          const column = Math.min(view.waves[0].length - 1, Math.floor((at / view.seconds) * view.waves[0].length));
          const peak = (which: 0 | 1) => Math.max(...(view.waves[which][column] ?? [0, 0]).map(Math.abs));
          const level = (which: 0 | 1) => text("dbfs", peak(which) > 0 ? 20 * Math.log10(peak(which)) : null);
          return { lines: [text("fine-s", at), `left ${level(0)}`, `right ${level(1)}`] };
        }}
        version={JSON.stringify(view.waves)}
        stale={stale}
      />
    </div>
  );
}

/** Bars stand so far apart, pixels. */
const GAP = 8;

export function DesignDecays({ view, stale }: Props) {
  const { octaves } = view;
  const most = 1.15 * Math.max(0.2, ...octaves.flatMap(({ drawn_s, measured_s }) => [drawn_s ?? 0, measured_s ?? 0]));
  const step = [0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10].find((each) => most / each <= 5) ?? 20;
  const at = (x: number) => octaves[Math.min(octaves.length - 1, Math.max(0, Math.floor(x)))];
  return (
    <div className={classes.decays}>
      <PlotFrame
        label="Decay of the response by octave"
        x={{
          domain: [0, octaves.length],
          ticks: octaves.map((_, i) => i + 0.5),
          format: (x) => shortHz(at(x)?.freq_hz ?? 0),
        }}
        panes={[
          {
            title: "T30, s: bars measured, dashed as drawn",
            axis: {
              domain: [0, most],
              ticks: Array.from({ length: Math.floor(most / step) + 1 }, (_, i) => +(i * step).toFixed(3)),
              format: tickText,
            },
            share: 1,
            draw: (context, s) =>
              octaves.forEach(({ drawn_s, measured_s }, i) => {
                const [left, right] = [s.x(i) + GAP / 2, s.x(i + 1) - GAP / 2];
                if (measured_s !== null) {
                  context.fillStyle = token("after-fill");
                  context.fillRect(left, s.y(measured_s), right - left, s.bottom - s.y(measured_s));
                }
                if (drawn_s !== null)
                  strokeLine(
                    context,
                    [
                      [s.x(i) + 1, s.y(drawn_s)],
                      [s.x(i + 1) - 1, s.y(drawn_s)],
                    ],
                    { colour: "before", width: 2, dash: [5, 3] },
                  );
              }),
          },
        ]}
        read={(x) => {
          const octave = at(x);
          return {
            lines: [
              `octave at ${text("hz", octave?.freq_hz ?? null)}`,
              `measured ${text("fine-s", octave?.measured_s ?? null)}`,
              `drawn ${text("fine-s", octave?.drawn_s ?? null)}`,
            ],
          };
        }}
        version={JSON.stringify(octaves)}
        stale={stale}
      />
    </div>
  );
}
