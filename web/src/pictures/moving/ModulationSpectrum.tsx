/** The modulation spectrum: how fast and how far the level of a band sways, before and after. */
import { NativeSelect } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { text } from "../../core/core";
import type { RateMark } from "../../generated/types/RateMark";
import { useMeasured, useShown } from "../../measuring/measured";
import { strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { hzAt, placeOf, shortHz } from "../frequency/frequency";
import classes from "../pictures.module.css";

const [LOWEST_HZ, HIGHEST_HZ] = [0.1, 40];
const AXIS: Axis = {
  domain: [placeOf(LOWEST_HZ), placeOf(HIGHEST_HZ)],
  ticks: [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 40].map(placeOf),
  format: (place) => String(+hzAt(place).toPrecision(2)),
};
const BANDS_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000];
/** Names of marks that lie closer than this are left out, pixels. */
const ROOM = 34;

export function ModulationSpectrumPicture() {
  const { bandHz, set } = useLooking();
  const shown = useShown("modulation-spectrum");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>Measuring how the level sways…</div>;
  const {
    freqs_hz: freqs,
    depths: [before, after],
    marks,
    band_hz,
  } = shown.spectrum;
  const most = Math.max(0.1, ...before, ...after);
  const top = [0.1, 0.2, 0.5, 1, 1.5, 2, 3, 5, 10].find((each) => most <= each) ?? Math.ceil(most);
  const y: Axis = {
    domain: [0, 100 * top],
    ticks: [0, 25, 50, 75, 100].map((share) => share * top),
    format: (v) => String(+v.toFixed(1)),
  };
  const line = (s: Scales, depths: number[]) =>
    depths.map((depth, k): [number, number] => [s.x(placeOf(freqs[k] ?? 1)), s.y(100 * depth)]);
  /** Marks that have room for their names. */
  const named = (s: Scales) => {
    let last = -Infinity;
    return marks.flatMap((mark): { mark: RateMark; x: number; name: string }[] => {
      const x = s.x(placeOf(mark.freq_hz));
      const room = x - last >= ROOM;
      if (room) last = x;
      return [{ mark, x, name: room ? (mark.times === 1 ? "rate" : `${mark.times}×`) : "" }];
    });
  };
  const band = band_hz === null ? "all frequencies" : `the octave around ${text("hz", band_hz)}`;
  return (
    <div className={classes.over}>
      <PlotFrame
        label="Envelope"
        x={AXIS}
        panes={[
          {
            title: `How far the envelope of ${band} sways, left side, % of its mean; how fast, Hz`,
            axis: y,
            share: 1,
            draw: (context, s) => {
              strokeLine(context, line(s, before), { colour: "before", width: 1.6 });
              strokeLine(context, line(s, after), { colour: "after", width: 2.2 });
            },
            overlay: (s) => (
              <>
                {after.length === 0 && (
                  <text
                    x={(s.left + s.right) / 2}
                    y={(s.top + s.bottom) / 2}
                    textAnchor="middle"
                    className={plot.direct}
                    fill="var(--mute)"
                  >
                    nothing sounds in this band
                  </text>
                )}
                {named(s).map(({ mark, x, name }) => (
                  <g key={mark.times}>
                    <line x1={x} x2={x} y1={s.top} y2={s.bottom} className={plot.mark} />
                    <text
                      x={x > s.right - 24 ? x - 3 : x + 3}
                      y={s.top + 13}
                      textAnchor={x > s.right - 24 ? "end" : "start"}
                      className={plot.direct}
                      fill="var(--ink)"
                    >
                      {name}
                    </text>
                  </g>
                ))}
                {marks[0] && (
                  <text x={s.right - 6} y={s.top + 32} textAnchor="end" className={plot.direct} fill="var(--after)">
                    {`at the rate, ${text("hz", marks[0].freq_hz)}: ${text("percent", marks[0].depths[0])} before, ${text("percent", marks[0].depths[1])} after`}
                  </text>
                )}
              </>
            ),
          },
        ]}
        read={(x) => {
          const k = freqs.reduce(
            (best, hz, i) => (Math.abs(placeOf(hz) - x) < Math.abs(placeOf(freqs[best] ?? 1) - x) ? i : best),
            0,
          );
          return {
            lines: [
              text("hz", freqs[k] ?? null),
              `before ${text("percent", before[k] ?? null)}`,
              `after ${text("percent", after[k] ?? null)}`,
            ],
          };
        }}
        version={String(id)}
        stale={stale}
      />
      <div className={classes.bar}>
        <NativeSelect
          size="xs"
          aria-label="Band"
          value={bandHz === null ? "" : String(bandHz)}
          data={[
            { value: "", label: "All frequencies" },
            ...BANDS_HZ.map((hz) => ({ value: String(hz), label: `Octave ${shortHz(hz)} Hz` })),
          ]}
          onChange={({ target }) => set({ bandHz: target.value === "" ? null : Number(target.value) })}
        />
      </div>
    </div>
  );
}
