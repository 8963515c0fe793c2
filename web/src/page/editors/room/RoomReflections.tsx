/** The first sounds that come to the listener: where they lie in the response, as a picture and as a list. */
import { text } from "../../../core/core";
import type { RoomMeasured } from "../../../generated/types/RoomMeasured";
import type { RoomPlan } from "../../../generated/types/RoomPlan";
import { columnsOf, fillBetween, strokeLine, tickText } from "../../../plot/drawing";
import { PlotFrame } from "../../../plot/PlotFrame";
import type { Axis } from "../../../plot/panes";
import classes from "./room.module.css";

const FAINTEST_DB = -60;
const level: Axis = { domain: [FAINTEST_DB, 6], ticks: [0, -20, -40, -60], format: tickText };
/** As many ticks along as are easily counted. */
const TICKS = 5;

interface Props {
  plan: RoomPlan;
  measured: RoomMeasured | undefined;
  stale: boolean;
  lit: number;
  onLit: (index: number) => void;
}

export function RoomReflections({ plan, measured, stale, lit, onLit }: Props) {
  const { reflections } = plan;
  const last = reflections.at(-1)?.at_ms ?? 0;
  const ms = measured?.columns_ms || Math.max(20, 1.05 * last);
  const every = [1, 2, 5, 10, 20, 50, 100, 200, 500].find((step) => ms / step <= TICKS + 1) ?? 1000;
  const x: Axis = {
    domain: [0, ms],
    ticks: Array.from({ length: Math.floor(ms / every) + 1 }, (_, i) => i * every),
    format: tickText,
  };
  const nearest = (at: number) =>
    reflections.reduce(
      (best, { at_ms }, i) => (Math.abs(at_ms - at) < Math.abs((reflections[best]?.at_ms ?? 0) - at) ? i : best),
      0,
    );
  const named = (index: number) => reflections[index]?.walls || "direct sound";
  return (
    <>
      <div className={classes.reflectogram}>
        <PlotFrame
          label="Room response"
          x={x}
          panes={[
            {
              title: "dB over ms after the direct sound; lines: predicted",
              axis: level,
              share: 1,
              draw: (context, s) => {
                const columns = columnsOf(measured?.columns_db ?? [], s, (db) => Math.max(FAINTEST_DB, db));
                fillBetween(
                  context,
                  columns,
                  columns.map(([at]) => [at, s.y(FAINTEST_DB)]),
                  "after-soft",
                );
                strokeLine(context, columns, { colour: "after-fill", width: 1 });
                reflections.forEach(({ at_ms, level_db }, i) => {
                  if (level_db === null || at_ms > ms) return;
                  const points: [number, number][] = [
                    [s.x(at_ms), s.y(FAINTEST_DB)],
                    [s.x(at_ms), s.y(Math.max(FAINTEST_DB, level_db))],
                  ];
                  strokeLine(context, points, {
                    colour: i === lit ? "spotlight-mark" : "ink",
                    width: i === lit ? 4 : 1.5,
                  });
                });
              },
            },
          ]}
          read={(at) => {
            const found = reflections[nearest(at)];
            return {
              lines: found
                ? [named(nearest(at)), `${text("ms", found.at_ms)} after the direct sound`, text("db", found.level_db)]
                : [],
            };
          }}
          onPick={(at) => onLit(nearest(at))}
          version={`${JSON.stringify(reflections.map(({ at_ms, level_db }) => [at_ms, level_db]))} ${measured?.columns_db.join() ?? ""} ${lit}`}
          stale={stale}
        />
      </div>
      <div className={classes.list} tabIndex={0} role="region" aria-label="Reflections">
        <table>
          <thead>
            <tr>
              <th scope="col">After</th>
              <th scope="col">Way</th>
              <th scope="col">Level</th>
              <th scope="col">By</th>
            </tr>
          </thead>
          <tbody>
            {reflections.map(({ at_ms, way_m, level_db }, i) => (
              <tr key={i} data-lit={i === lit || undefined}>
                <td>{text("ms", at_ms)}</td>
                <td>{text("m", way_m)}</td>
                <td>{text("db", level_db)}</td>
                <td>
                  <button type="button" aria-pressed={i === lit} onClick={() => onLit(i)}>
                    {named(i)}
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}
