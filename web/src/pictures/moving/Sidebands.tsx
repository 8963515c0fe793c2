/** The lines that stand beside a tone which an effect moves. */
import { NativeSelect } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { PlotFrame } from "../../plot/PlotFrame";
import plot from "../../plot/plot.module.css";
import { token } from "../../theme/theme";
import { evenAxis } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { waitingText } from "./moving";

const FLOOR_DB = -80;
const BAR = 7;
const TONES_HZ = [110, 220, 440, 1000, 2000, 4000, 8000];

const orderText = (order: number) => (order === 0 ? "the tone" : `${order > 0 ? "+" : "\u2212"}${Math.abs(order)}`);

export function SidebandsPicture() {
  const { toneHz, set } = useLooking();
  const shown = useShown("sidebands");
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  if (!shown) return <div className={classes.waiting}>{waitingText(shown)}</div>;
  if (!shown.sidebands)
    return (
      <div className={classes.waiting}>
        The movement takes more than 10 s for a cycle: its lines lie too close to be parted.
      </div>
    );
  const { lines, rate_hz: rate, tone_hz: tone, window_s } = shown.sidebands;
  const orders = lines.map((line) => line.order);
  const [low, high] = [Math.min(...orders), Math.max(...orders)];
  return (
    <div className={classes.over}>
      <PlotFrame
        label="Sidebands"
        x={{ domain: [low - 0.6, high + 0.6], ticks: orders.filter((order) => order % 2 === 0), format: orderText }}
        panes={[
          {
            title: `${text("hz", tone)}, lines ${text("hz", rate)} apart, dB against the tone; window ${text("fine-s", window_s)}, whole cycles of all; thin: predicted`,
            axis: evenAxis(FLOOR_DB, 0, 10),
            share: 1,
            draw: (context, s) =>
              lines.forEach(({ order, level_db, predicted_db }) => {
                const y = s.y(Math.max(FLOOR_DB, Math.min(0, level_db ?? FLOOR_DB)));
                context.fillStyle = token(order === 0 ? "before" : "after");
                context.fillRect(s.x(order) - BAR / 2, y, BAR, s.bottom - y);
                if (predicted_db === null || predicted_db < FLOOR_DB) return;
                context.fillStyle = token("ink");
                context.fillRect(s.x(order) - BAR, s.y(Math.min(0, predicted_db)) - 1, 2 * BAR, 2);
              }),
            overlay: (s) => (
              <>
                {lines.map(({ order, level_db }) =>
                  level_db === null || level_db < FLOOR_DB + 4 ? null : (
                    <text
                      key={order}
                      x={s.x(order)}
                      y={s.y(Math.min(0, level_db)) - 5}
                      textAnchor="middle"
                      className={plot.direct}
                      fill={order === 0 ? "var(--before)" : "var(--after)"}
                    >
                      {level_db.toFixed(1).replace("-", "\u2212")}
                    </text>
                  ),
                )}
              </>
            ),
          },
        ]}
        read={(x) => {
          const line = lines.reduce((best, each) =>
            Math.abs(each.order - x) < Math.abs(best.order - x) ? each : best,
          );
          return {
            lines: [
              orderText(line.order),
              text("hz", line.freq_hz),
              text("db", line.level_db),
              ...(line.predicted_db === null ? [] : [`predicted ${text("db", line.predicted_db)}`]),
            ],
          };
        }}
        version={String(id)}
        stale={stale}
      />
      <div className={classes.bar}>
        <NativeSelect
          size="xs"
          aria-label="Tone"
          value={String(toneHz)}
          data={TONES_HZ.map((hz) => ({ value: String(hz), label: `Tone ${text("hz", hz)}` }))}
          onChange={({ target }) => set({ toneHz: Number(target.value) })}
        />
      </div>
    </div>
  );
}
