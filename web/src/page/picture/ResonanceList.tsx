/** The resonances of the passage, each to be heard by itself and to be cut with the Q that fits it. */
import { Button } from "@mantine/core";
import { useEffect } from "react";

import { freeBand } from "../../bench/bands";
import { withStage } from "../../bench/edits";
import { bandAt, useOverheard, withBell } from "../../bench/overheard";
import { useBench } from "../../bench/store";
import { noteText, text } from "../../core/core";
import type { Hum } from "../../generated/types/Hum";
import type { Resonance } from "../../generated/types/Resonance";
import type { StageDocument } from "../../generated/types/StageDocument";
import { findResonances, useMeasured } from "../../measuring/measured";
import classes from "../parameters/bands.module.css";

/** No cut is deeper at first, dB. */
const DEEPEST_DB = 12;

interface Props {
  stage: StageDocument;
  index: number;
}

export function ResonanceList({ stage, index }: Props) {
  const resonances = useMeasured((m) => m.resonances);
  const edit = useBench((s) => s.edit);
  const { what, listen, stop } = useOverheard();
  // What is not on the screen is not heard.
  useEffect(() => stop, [stop]);

  const cut = (resonance: Resonance) => {
    const number = bandAt(stage, resonance)?.number ?? freeBand(stage);
    if (number === null) return;
    const cutDb = -Math.round(Math.min(DEEPEST_DB, resonance.prominence_db));
    edit(`Cut ${text("hz", resonance.freq_hz)}`, (d) =>
      withStage(d, index, (s) => withBell(s, resonance, number, cutDb)),
    );
  };
  return (
    <div className={classes.resonances} role="group" aria-label="Resonances">
      <div className={classes.strip}>
        <Button size="compact-sm" variant="default" onClick={() => void findResonances()}>
          Find resonances
        </Button>
        {what && (
          <Button size="compact-sm" color="dark" onClick={stop}>
            Hear everything again
          </Button>
        )}
      </div>
      {resonances?.hum && <p>{ofHum(resonances.hum)}</p>}
      {resonances?.others.length === 0 && !resonances.hum && (
        <p>Nothing narrow stands out of this passage by 4 dB or more, most of the time.</p>
      )}
      {resonances && resonances.others.length > 0 && (
        <table>
          <thead>
            <tr>
              <th scope="col">Frequency</th>
              <th scope="col">Stands out</th>
              <th scope="col">Time</th>
              <th scope="col">Q</th>
              <th scope="col">
                <span className={classes.unseen}>What to do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {resonances.others.map((resonance) => {
              const { freq_hz, prominence_db, persistence, q } = resonance;
              const name = text("hz", freq_hz);
              const isCut = (bandAt(stage, resonance)?.gainDb ?? 0) < 0;
              const isHeard = what?.resonance.freq_hz === freq_hz;
              return (
                <tr key={freq_hz}>
                  <td>
                    {name}
                    <br />
                    <small>{noteText(freq_hz)}</small>
                  </td>
                  <td>{text("db", prominence_db)}</td>
                  <td>{text("percent", persistence)}</td>
                  <td>{text("q", q)}</td>
                  <td className={classes.doing}>
                    <Button
                      size="compact-xs"
                      variant={isHeard ? "filled" : "default"}
                      color="dark"
                      aria-label={`Listen to ${name}`}
                      aria-pressed={isHeard}
                      onClick={() => (isHeard ? stop() : listen(index, resonance))}
                    >
                      Listen
                    </Button>{" "}
                    <Button
                      size="compact-xs"
                      variant="default"
                      disabled={isCut}
                      aria-label={`Cut ${name}`}
                      onClick={() => cut(resonance)}
                    >
                      {isCut ? "Cut \u2713" : "Cut"}
                    </Button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** "Mains hum: 50.00 Hz and its multiples 2, 3, 4." */
function ofHum({ freq_hz, mains_hz, multiples }: Hum): string {
  const higher = multiples.filter((k) => k > 1).join(", ");
  const first = multiples.includes(1) ? "and its" : "by its";
  return `Mains hum: ${freq_hz.toFixed(2)} Hz ${first} multiples ${higher}. The starting point \u201cMains hum, ${mains_hz} Hz\u201d takes it out.`;
}
