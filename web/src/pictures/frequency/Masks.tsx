/** The spectra of two parts over each other, and how much of each the other hides, octave by octave. */
import { text } from "../../core/core";
import type { Masking } from "../../generated/types/Masking";
import type { Parts } from "../../generated/types/Parts";
import { useMeasured } from "../../measuring/measured";
import { columnsOf, strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { evenAxis, FREQUENCY_AXIS, freqText, hzAt, placeOf } from "./frequency";
import classes from "../pictures.module.css";

const FLOOR_DBFS = -96;
/** Bars reach so far to both sides of the middle of their octave, as a share of it. */
const REACH = 0.2;

interface Props {
  parts: Parts;
  stale: boolean;
  /** What this part and the other are called. */
  names: [string, string];
}

function bars(context: CanvasRenderingContext2D, s: Scales, { octaves }: Masking, before: boolean): void {
  const octave = s.x(placeOf(2000)) - s.x(placeOf(1000));
  for (const { freq_hz, first } of octaves) {
    if (first === null) continue;
    const middle = s.x(placeOf(freq_hz));
    const [x, width, y] = [before ? middle - 2 * REACH * octave : middle, 2 * REACH * octave - 2, s.y(first)];
    if (before) {
      context.strokeStyle = token("before");
      context.setLineDash([3, 2]);
      context.strokeRect(x, y, width, s.bottom - y);
      context.setLineDash([]);
    } else {
      context.fillStyle = token("after");
      context.fillRect(x, y, width, Math.max(1, s.bottom - y));
    }
  }
}

export function Masks({ parts, stale, names: [own, other] }: Props) {
  const id = useMeasured((m) => m.shownId);
  const line = (levels: number[], s: Scales) => columnsOf(levels, s, (db) => Math.max(FLOOR_DBFS, db));
  const read = (x: number) => {
    const hz = hzAt(x);
    const [low, high] = FREQUENCY_AXIS.domain;
    const at = Math.min(parts.this_dbfs.length - 1, Math.floor(((x - low) / (high - low)) * parts.this_dbfs.length));
    const near = (masking: Masking) =>
      masking.octaves.reduce((a, b) =>
        Math.abs(Math.log(b.freq_hz / hz)) < Math.abs(Math.log(a.freq_hz / hz)) ? b : a,
      );
    const share = (masking: Masking) => text("percent", near(masking).first ?? 0);
    return {
      lines: [
        freqText(hz),
        `${own} ${text("dbfs", parts.this_dbfs[at] ?? null)}`,
        `${other} ${text("dbfs", parts.other_dbfs[at] ?? null)}`,
        `hidden in this octave: ${share(parts.before)} before, ${share(parts.after)} after`,
      ],
    };
  };
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Two parts"
        x={FREQUENCY_AXIS}
        panes={[
          {
            title: "Spectra after both paths, dBFS",
            axis: evenAxis(FLOOR_DBFS, 0, 24),
            share: 1.3,
            draw: (context, s) => {
              strokeLine(context, line(parts.other_dbfs, s), { colour: "difference", width: 1.6, dash: [2, 3] });
              strokeLine(context, line(parts.this_dbfs, s), { colour: "after", width: 2 });
            },
            overlay: (s) => (
              <>
                <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--after)">
                  this part: {own}
                </text>
                <text x={s.right - 6} y={s.top + 32} textAnchor="end" className={plot.direct} fill="var(--difference)">
                  dotted: {other}
                </text>
              </>
            ),
          },
          {
            title: "Share of this part that the other hides, by octave",
            axis: { domain: [0, 1], ticks: [0, 0.5, 1], format: (v) => `${100 * v} %` },
            share: 0.9,
            draw: (context, s) => {
              bars(context, s, parts.before, true);
              bars(context, s, parts.after, false);
            },
            overlay: (s) => (
              <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--mute)">
                dashed: before; filled: after; hidden where the other is 4 dB stronger
              </text>
            ),
          },
        ]}
        read={read}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
