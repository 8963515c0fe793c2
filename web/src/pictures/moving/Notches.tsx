/**
 * The response of an effect that moves, at one moment of its cycle, over the spectrum of what plays: its notches are numbered and
 * named. It moves while sound runs, stands where the effect is held, and is walked through by hand otherwise.
 */
import { useState } from "react";

import { usePicturedStage } from "../../bench/store";
import { momentOf, text } from "../../core/core";
import type { NotchMoment } from "../../generated/types/NotchMoment";
import { useShown } from "../../measuring/measured";
import { strokeLine } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { curveLine, evenAxis, FREQUENCY_AXIS, hzAt, placeOf } from "../frequency/frequency";
import { useSpectra } from "../frequency/liveSpectra";
import classes from "../pictures.module.css";
import { useHeardInCycle, waitingText } from "./moving";
import { PlaceBar } from "./PlaceBar";

/** Places of a cycle at which the response is drawn. */
const PLACES = 48;
const FLOOR_DB = -48;
const TOP_DB = 24;
/** So many notches have their frequencies beside them; all have their numbers where there is room, pixels. */
const NAMED = 6;
const ROOM = 16;

const countText = ({ notches_hz: notches }: NotchMoment) => {
  if (notches.length === 0) return "no notch under 20 kHz";
  const lowest = text("hz", notches[0] ?? null);
  return notches.length === 1
    ? `one notch, at ${lowest}`
    : `${notches.length} notches under 20 kHz, the lowest at ${lowest}`;
};

export function NotchesPicture() {
  const shown = useShown("notches");
  const { stage } = usePicturedStage();
  const heard = useHeardInCycle(shown?.swing ?? null, shown?.seconds ?? 0);
  const [byHand, setByHand] = useState(0);
  const { behind } = useSpectra(null);
  const place = (Math.round((heard ?? byHand) * PLACES) % PLACES) / PLACES;
  const moment = stage ? momentOf(stage, place) : null;
  if (!moment) return <div className={classes.waiting}>{waitingText(shown)}</div>;
  const { held, gains_db: gains, notches_hz: notches, predicted_db: predicted, predicted_hz: formula } = moment;
  /** The numbers that have room, from the lowest on. */
  const numbered = (s: Scales) => {
    let last = -Infinity;
    return notches.flatMap((hz, i) => {
      const x = s.x(placeOf(hz));
      if (x - last < ROOM) return [];
      last = x;
      return [{ hz, i, x }];
    });
  };
  return (
    <div className={classes.over}>
      <PlotFrame
        label="Notches"
        x={FREQUENCY_AXIS}
        behind={behind}
        panes={[
          {
            title: "Gain at this moment, left, dB; thin: predicted",
            axis: evenAxis(FLOOR_DB, TOP_DB, 12),
            share: 1,
            draw: (context, s) => {
              strokeLine(
                context,
                curveLine(
                  gains.map((db) => Math.max(FLOOR_DB, db)),
                  s,
                ),
                { colour: "after-soft", width: 5 },
              );
              strokeLine(
                context,
                curveLine(
                  predicted.map((db) => Math.max(FLOOR_DB, db)),
                  s,
                ),
                { colour: "after", width: 1.2 },
              );
            },
            overlay: (s) => (
              <>
                <text x={s.left + 6} y={s.top + 14} className={plot.direct} fill="var(--ink)">
                  {countText(moment)}
                </text>
                {numbered(s).map(({ hz, i, x }, k) => (
                  <g key={i}>
                    <line x1={x} x2={x} y1={s.y(-3)} y2={s.bottom} className={plot.mark} />
                    <text x={x} y={s.bottom - 6} textAnchor="middle" className={plot.direct} fill="var(--after)">
                      {i + 1}
                    </text>
                    {k < NAMED && i === k && (
                      <text
                        x={x}
                        y={s.top + 34 + 15 * (k % 3)}
                        textAnchor="middle"
                        className={plot.direct}
                        fill="var(--after)"
                      >
                        {text("hz", hz)}
                      </text>
                    )}
                  </g>
                ))}
              </>
            ),
          },
        ]}
        read={(x) => {
          const hz = hzAt(x);
          const [low, high] = FREQUENCY_AXIS.domain;
          const at = Math.round(((x - low) / (high - low)) * (gains.length - 1));
          const nearest = notches.reduce<number | null>(
            (best, each) => (best !== null && Math.abs(placeOf(best) - x) <= Math.abs(placeOf(each) - x) ? best : each),
            null,
          );
          const number = nearest === null ? -1 : notches.indexOf(nearest);
          return {
            lines: [
              text("hz", hz),
              `measured ${text("db", gains[at] ?? null)}, predicted ${text("db", predicted[at] ?? null)}`,
              ...(number < 0
                ? []
                : [
                    `notch ${number + 1}: found at ${text("hz", nearest)}, predicted at ${text("hz", formula[number] ?? null)}`,
                  ]),
            ],
          };
        }}
        version={`${JSON.stringify(stage)} ${place}`}
      />
      {held === null && (
        <PlaceBar
          label="Place in the cycle"
          place={place}
          places={PLACES}
          said={text("degrees", 360 * place)}
          follows={heard !== null}
          onChange={setByHand}
        />
      )}
    </div>
  );
}
