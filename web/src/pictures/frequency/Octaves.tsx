/** What every octave sums to before and after, and how wide it is between left and right. */
import { text } from "../../core/core";
import type { BandLevel } from "../../generated/types/BandLevel";
import { useMeasured, useShown } from "../../measuring/measured";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { evenAxis } from "./frequency";
import classes from "../pictures.module.css";

const FLOOR_DBFS = -84;
/** Bars of a band stand so far apart, pixels. */
const GAP = 5;

function bar(
  context: CanvasRenderingContext2D,
  s: Scales,
  at: number,
  count: number,
  part: 0 | 1,
  top: number,
  foot: number,
): void {
  const each = (s.right - s.left) / count;
  const width = (each - GAP) / 2;
  context.fillStyle = token(part === 0 ? "before" : "after");
  const x = s.left + at * each + GAP / 2 + part * width;
  if (part === 0) {
    context.strokeStyle = token("before");
    context.setLineDash([3, 2]);
    context.strokeRect(x + 1, Math.min(top, foot) + 0.5, width - 2, Math.abs(foot - top));
    context.setLineDash([]);
  } else {
    context.fillRect(x + 1, Math.min(top, foot), width - 2, Math.max(1, Math.abs(foot - top)));
  }
}

export function Octaves() {
  const shown = useShown("octaves");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>Measuring the octaves…</div>;
  const { before, after } = shown;
  const count = before.length;
  const stereo = before.some((band) => band.correlation !== null);
  const level = ({ level_dbfs }: BandLevel) => Math.max(FLOOR_DBFS, level_dbfs);
  const at = (x: number) => Math.min(count - 1, Math.max(0, Math.floor(x)));
  const edge = (i: number) => i + 0.5;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Octaves"
        x={{
          domain: [0, count],
          ticks: before.map((_, i) => edge(i)),
          format: (x) =>
            text("hz", before[at(x)]?.freq_hz ?? null)
              .replace(" Hz", "")
              .replace(" kHz", "k"),
        }}
        panes={[
          {
            title: "RMS level of all that lies in each octave, dBFS",
            axis: evenAxis(FLOOR_DBFS, 0, 12),
            share: 1.4,
            draw: (context, s) => {
              before.forEach((band, i) => bar(context, s, i, count, 0, s.y(level(band)), s.bottom));
              after.forEach((band, i) => bar(context, s, i, count, 1, s.y(level(band)), s.bottom));
            },
            overlay: (s) => (
              <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--after)">
                dashed: before; filled: after
              </text>
            ),
          },
          ...(stereo
            ? [
                {
                  title: "Correlation of left and right: 1 is mono, 0 is wide",
                  axis: evenAxis(-1, 1, 1),
                  share: 0.8,
                  draw: (context: CanvasRenderingContext2D, s: Scales) => {
                    before.forEach(
                      (band, i) =>
                        band.correlation !== null && bar(context, s, i, count, 0, s.y(band.correlation), s.y(0)),
                    );
                    after.forEach(
                      (band, i) =>
                        band.correlation !== null && bar(context, s, i, count, 1, s.y(band.correlation), s.y(0)),
                    );
                  },
                },
              ]
            : []),
        ]}
        read={(x) => {
          const [b, a] = [before[at(x)], after[at(x)]];
          if (!b || !a) return { lines: [] };
          const width = (band: BandLevel) =>
            band.width_db === null ? "no side" : `side ${text("db", band.width_db)} against mid`;
          return {
            lines: [
              `octave at ${text("hz", b.freq_hz)}`,
              `before ${text("dbfs", b.level_dbfs)}, ${width(b)}`,
              `after ${text("dbfs", a.level_dbfs)}, ${width(a)}`,
              `change ${text("db", a.level_dbfs - b.level_dbfs)}`,
            ],
          };
        }}
        version={String(id)}
        stale={stale}
      />
    </div>
  );
}
