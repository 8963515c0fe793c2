/** The gain of every band over time, the highest band on top. */
import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Pane } from "../../plot/panes";
import { useHeardPlace } from "../follow";
import classes from "../pictures.module.css";
import { drawGain, gainAxis, timeAxis } from "../shared";

/** What a band is called: by the frequencies at its ends. */
function nameOf(band: number, count: number, edgesHz: Float64Array): string {
  const hz = (i: number) => text("hz", edgesHz[i] ?? null);
  if (count === 1) return edgesHz.length === 1 ? `Above ${hz(0)}` : `From ${hz(0)} to ${hz(1)}`;
  const name = `Band ${band + 1}`;
  if (band === 0) return `${name}, under ${hz(0)}`;
  return band === count - 1 ? `${name}, over ${hz(band - 1)}` : `${name}, ${hz(band - 1)} to ${hz(band)}`;
}

export function Bands() {
  const shown = useShown("bands");
  const seconds = useMeasured((m) => (m.picture ? m.picture.seconds - m.picture.tailSeconds : 0));
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const follow = useHeardPlace();
  if (!shown || seconds === 0) return <div className={classes.waiting}>Measuring the bands…</div>;
  const { gainsDb, edgesHz } = shown;
  if (gainsDb.length === 0)
    return <div className={classes.waiting}>The effect is switched off, so no band has a gain.</div>;
  const axis = gainAxis(gainsDb);
  const count = gainsDb.length;
  const rows = gainsDb.map((gain, band) => ({ gain, name: nameOf(band, count, edgesHz) })).reverse();
  const panes: Pane[] = rows.map(({ gain, name }) => ({
    title: `${name}: gain, dB`,
    axis: { ...axis, ticks: [axis.domain[1], axis.domain[0]] },
    share: 1,
    draw: (context, s) => drawGain(context, s, gain),
  }));
  const read = (x: number) => {
    const at = (gain: Float32Array) =>
      gain[Math.min(gain.length - 1, Math.max(0, Math.floor((x / seconds) * gain.length)))] ?? 0;
    return { lines: [`${x.toFixed(2)} s`, ...rows.map(({ gain, name }) => `${name}: ${text("db", at(gain))}`)] };
  };
  return (
    <div className={classes.picture}>
      <PlotFrame
        label="Bands"
        x={timeAxis(seconds)}
        panes={panes}
        read={read}
        follow={follow}
        onPick={(at) => engine.seek(at)}
        version={`${id} ${count}`}
        stale={stale}
      />
    </div>
  );
}
