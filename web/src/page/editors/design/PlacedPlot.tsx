/** The reflections that are placed by hand: when they come, and how loud. */
import { placedControl, text } from "../../../core/core";
import type { Placed } from "../../../generated/types/Placed";
import { timeAxis } from "../../../pictures/shared";
import { strokeLine } from "../../../plot/drawing";
import { PlotFrame } from "../../../plot/PlotFrame";
import { PointHandle } from "../../../plot/PointHandle";
import { without } from "./design";

/** So much of the time is seen, s, as far as it is needed. */
const SHOWN_S = [0.1, 0.25, 0.5, 1, 2, 5];
/** A step of a key along, ms. */
const STEP_MS = 1;

interface Props {
  placed: Placed[];
  seconds: number;
  chosen: number;
  onChoose: (index: number) => void;
  onChange: (placed: Placed[], mergeKey?: string) => void;
  onAdd: (at_ms: number, level_db: number) => void;
}

export function PlacedPlot({ placed, seconds, chosen, onChoose, onChange, onAdd }: Props) {
  const [time, level] = [placedControl("at_ms"), placedControl("level_db")];
  const put = (index: number, at_ms: number, level_db: number) => {
    const moved = {
      at_ms: time.value(time.position(Math.min(1000 * seconds, at_ms))),
      level_db: level.value(level.position(level_db)),
    };
    onChange(
      placed.map((each, i) => (i === index ? { ...each, ...moved } : each)),
      `placed ${index}`,
    );
  };
  const nearest = (ms: number) =>
    placed.reduce<Placed | undefined>(
      (best, each) => (!best || Math.abs(each.at_ms - ms) < Math.abs(best.at_ms - ms) ? each : best),
      undefined,
    );
  // As far as the last one, and a little: the first reflections of a place lie close together.
  const last = Math.max(0, ...placed.map(({ at_ms }) => at_ms / 1000));
  const shown = Math.min(seconds, SHOWN_S.find((span) => span >= 1.25 * last) ?? seconds);
  return (
    <PlotFrame
      label="Reflections placed by hand"
      x={timeAxis(shown)}
      panes={[
        {
          title: placed.length === 0 ? "Level, dB; a double click places a reflection" : "Level, dB",
          axis: {
            domain: [level.value(0), level.value(1)],
            ticks: [-60, -40, -20, 0, 20],
            format: (db) => String(db).replace("-", "\u2212"),
          },
          share: 1,
          draw: (context, s) =>
            placed.forEach(({ at_ms, level_db }) =>
              strokeLine(
                context,
                [
                  [s.x(at_ms / 1000), s.bottom],
                  [s.x(at_ms / 1000), s.y(level_db)],
                ],
                { colour: "gain", width: 2 },
              ),
            ),
          over: (s) =>
            placed.map(({ at_ms, level_db }, index) => (
              <PointHandle
                key={index}
                number={index + 1}
                label={`Reflection ${index + 1}`}
                said={`${time.text(at_ms)}, ${level.text(level_db)}`}
                lit={index === chosen}
                x={Math.min(s.right, s.x(at_ms / 1000))}
                y={s.y(level_db)}
                along={Math.min(1, at_ms / 1000 / shown)}
                onTo={(x, y) => put(index, 1000 * s.x.invert(x), s.y.invert(y))}
                onStep={(along, up) => put(index, at_ms + STEP_MS * along, level_db + up)}
                onChoose={() => onChoose(index)}
                onRemove={() => onChange(without(placed, index))}
              />
            )),
        },
      ]}
      onDouble={(x, y) => onAdd(1000 * Math.min(shown, Math.max(0, x)), y)}
      read={(at) => {
        const found = nearest(1000 * at);
        return { lines: found ? [text("ms", found.at_ms), level.text(found.level_db)] : ["no reflection is placed"] };
      }}
      version={`${JSON.stringify(placed)} ${shown}`}
    />
  );
}
