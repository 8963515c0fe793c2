/**
 * One scaled line in dBFS: a hollow mark for before, a filled one for after (RMS over 0.3 s), their peaks as
 * ticks, the gain reduction as a bar that grows from 0 dB to the left on the same scale, and at its end the clip
 * mark, which stays until it is pressed.
 */
import { useEffect, useRef, useState } from "react";

import { engine } from "../../audio/engine";
import { text } from "../../core/core";
import { tickText, toDbfs } from "../../plot/drawing";
import classes from "./level-ruler.module.css";

const LOW = -60;
const WIDTH = 260;
const TICKS = [-60, -48, -36, -24, -12, 0];
/** How fast a peak tick falls, dB per second. */
const PEAK_FALL = 20;
/** How often the numbers for assistive technology are renewed, ms. */
const SAY_EVERY = 300;

const place = (dbfs: number) => ((Math.min(0, Math.max(LOW, dbfs)) - LOW) / -LOW) * (WIDTH - 32) + 16;

/** What was over full scale: the signal itself, or only what is heard of it here, which the monitor holds down. */
type Over = "signal" | "monitor" | null;

const SAID = {
  signal: "Clip: the signal is over full scale. Press to clear",
  monitor:
    "Held down: the signal fits, but as it is heard, with its match or in the sum, it is over full scale. Press to clear",
  not: "Clip mark: not over full scale",
};

export function LevelRuler() {
  const before = useRef<HTMLSpanElement>(null);
  const after = useRef<HTMLSpanElement>(null);
  const beforePeak = useRef<HTMLSpanElement>(null);
  const afterPeak = useRef<HTMLSpanElement>(null);
  const gain = useRef<HTMLSpanElement>(null);
  const meter = useRef<HTMLDivElement>(null);
  const [over, setOver] = useState<Over>(null);

  useEffect(() => {
    const peaks = { before: LOW, after: LOW, at: performance.now() };
    let said = 0;
    const turn = (mark: HTMLElement | null, transform: string) => {
      if (mark) mark.style.transform = transform;
    };
    const move = (mark: HTMLElement | null, dbfs: number) => turn(mark, `translateX(${place(dbfs).toFixed(1)}px)`);
    return engine.onMeters((m) => {
      const now = performance.now();
      const fall = (PEAK_FALL * (now - peaks.at)) / 1000;
      peaks.at = now;
      peaks.before = Math.max(peaks.before - fall, toDbfs(m.before_peak, LOW));
      peaks.after = Math.max(peaks.after - fall, toDbfs(m.after_peak, LOW));
      move(before.current, toDbfs(m.before_rms, LOW));
      move(after.current, toDbfs(m.after_rms, LOW));
      move(beforePeak.current, peaks.before);
      move(afterPeak.current, peaks.after);
      const left = place(m.gain_db);
      turn(gain.current, `translateX(${left.toFixed(1)}px) scaleX(${(place(0) - left).toFixed(1)})`);
      // What the signal itself is comes before what is made of it here.
      if (m.heard_peak > 1) setOver((last) => (last === "signal" || m.own_peak > 1 ? "signal" : "monitor"));
      if (meter.current && now - said > SAY_EVERY) {
        said = now;
        const level = toDbfs(m.after_rms, -200);
        meter.current.setAttribute("aria-valuenow", Math.max(LOW, level).toFixed(1));
        meter.current.setAttribute("aria-valuetext", text("dbfs", level <= -200 ? null : level));
      }
    });
  }, []);

  return (
    <div className={classes.ruler}>
      <div
        ref={meter}
        className={classes.meter}
        role="meter"
        aria-label="Level after, RMS"
        aria-valuemin={LOW}
        aria-valuemax={0}
        aria-valuenow={LOW}
      >
        <svg width={WIDTH} height={46} className={classes.svg} aria-hidden>
          <line x1={place(LOW)} x2={place(0)} y1={20} y2={20} className={classes.line} />
          <text x={WIDTH - 2} y={9} textAnchor="end">
            dBFS
          </text>
          {TICKS.map((tick) => (
            <g key={tick} transform={`translate(${place(tick)} 0)`}>
              <line y1={16} y2={24} className={classes.line} />
              <text y={41} textAnchor="middle">
                {tickText(tick)}
              </text>
            </g>
          ))}
        </svg>
        {/* What moves all the time moves without anything being laid out. */}
        <span ref={gain} className={classes.gain} style={{ transform: "scaleX(0)" }} />
        {[
          { mark: beforePeak, look: classes.beforePeak },
          { mark: afterPeak, look: classes.afterPeak },
          { mark: after, look: classes.after },
          { mark: before, look: classes.before },
        ].map(({ mark, look }) => (
          <span key={look} ref={mark} className={look} style={{ transform: `translateX(${place(LOW)}px)` }} />
        ))}
      </div>
      <button
        type="button"
        className={classes.clip}
        data-clipped={over ?? undefined}
        aria-label={SAID[over ?? "not"]}
        title={SAID[over ?? "not"]}
        onClick={() => setOver(null)}
      >
        {over === "signal" ? "Clip" : over === "monitor" ? "Held" : "clip"}
      </button>
    </div>
  );
}
