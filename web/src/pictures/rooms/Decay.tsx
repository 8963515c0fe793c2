/** The decay of a room's response, the lines that are fitted to it, and the decay that is set. */
import { text } from "../../core/core";
import type { DecayFit } from "../../generated/types/DecayFit";
import { strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { evenAxis } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useRoom, useSetDecays, waitingText } from "./room";

const FLOOR_DB = -70;
/** Where the set decay is drawn: in the middle of the range, Hz. */
const MIDDLE = [1000];

interface Fitted {
  name: string;
  fit: DecayFit | null;
  fromDb: number;
  toDb: number;
  colour: string;
}

const fitText = ({ name, fit }: Fitted) => (fit ? `${name} ${text("fine-s", fit.seconds)}` : `${name} none`);

export function DecayPicture() {
  const { view, drawn, fanned, version, stale } = useRoom("decay");
  const [set] = useSetDecays(MIDDLE);
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { times, curve } = view;
  const begins = curve[0]?.at_s ?? 0;
  const fits: Fitted[] = [
    { name: "EDT", fit: times.edt, fromDb: 0, toDb: -10, colour: "difference" },
    { name: "T20", fit: times.t20, fromDb: -5, toDb: -25, colour: "gain" },
    { name: "T30", fit: times.t30, fromDb: -5, toDb: -35, colour: "spotlight-mark" },
  ];
  const reached = (points: typeof curve) =>
    points.find((point) => point.level_db < FLOOR_DB)?.at_s ?? points.at(-1)?.at_s ?? 1;
  const seconds = Math.max(0.1, ...drawn.map((each) => reached(each.view.curve)));
  const along = (s: Scales, fit: DecayFit, fromDb: number, toDb: number): [number, number][] =>
    [fromDb, toDb].map((db) => [s.x(begins + ((fit.from_db - db) * fit.seconds) / 60), s.y(db)]);
  const level = (x: number) => curve.findLast((point) => point.at_s <= x)?.level_db ?? null;
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Decay"
        x={timeAxis(seconds)}
        panes={[
          {
            title: "Energy that is still to come, dB",
            axis: evenAxis(FLOOR_DB, 0, 10),
            share: 1,
            draw: (context, s) => {
              if (!fanned && set)
                strokeLine(
                  context,
                  [
                    [s.x(begins), s.y(0)],
                    [s.x(begins + (set * -FLOOR_DB) / 60), s.y(FLOOR_DB)],
                  ],
                  { colour: "before", width: 1.2, dash: [5, 4] },
                );
              drawn.forEach((each) => {
                const points = each.view.curve.map((point): [number, number] => [s.x(point.at_s), s.y(point.level_db)]);
                strokeLine(context, points, { colour: "after", width: fanned ? 1.8 : 2.4, share: each.share });
              });
              if (!fanned)
                fits.forEach(
                  ({ fit, fromDb, toDb, colour }) =>
                    fit && strokeLine(context, along(s, fit, fromDb, toDb), { colour, width: 3.2, share: 0.85 }),
                );
            },
            overlay: (s) => (
              <>
                <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--after)">
                  {fanned ? "fan: light to dark" : "measured"}
                </text>
                {!fanned && set !== undefined && (
                  <text x={s.right - 6} y={s.top + 32} textAnchor="end" className={plot.direct} fill="var(--before)">
                    {set ? `dashed: set at 1 kHz, ${text("fine-s", set)}` : "set: it never ends"}
                  </text>
                )}
                {!fanned &&
                  fits.map((each, i) => (
                    <text
                      key={each.name}
                      x={s.right - 6}
                      y={s.top + 50 + 18 * i}
                      textAnchor="end"
                      className={plot.direct}
                      fill={each.colour === "spotlight-mark" ? "var(--ink)" : `var(--${each.colour})`}
                    >
                      {fitText(each)}
                      {each.fit && ` (fits by ${each.fit.correlation.toFixed(4)})`}
                    </text>
                  ))}
                {times.why && (
                  <text x={s.left + 6} y={s.bottom - 8} className={plot.direct} fill="var(--mute)">
                    {times.why}
                  </text>
                )}
              </>
            ),
          },
        ]}
        read={(x) => ({ lines: [`${x.toFixed(2)} s`, `still to come ${text("db", level(x))}`, ...fits.map(fitText)] })}
        version={`${version} ${set}`}
        stale={stale}
      />
    </div>
  );
}
