/** The resonances of the passage, each to be heard by itself and to be cut with the Q that fits it. */
import { Button } from "@mantine/core";

import { bandGroup, bandParam, bandsOf, freeBand, isUsual, withBand } from "../bench/bands";
import { valueOf, withStage, withValue } from "../bench/edits";
import { useGroups } from "../bench/groups";
import { useBench } from "../bench/store";
import { effectOf, holdOf, noteText, paramNamed, text } from "../core/core";
import type { Hum } from "../generated/types/Hum";
import type { Resonance } from "../generated/types/Resonance";
import type { StageDocument } from "../generated/types/StageDocument";
import { findResonances, useMeasured } from "../measuring/measured";
import classes from "./bands.module.css";

/** A band so near to a resonance, as a ratio, is the one that deals with it. */
const NEAR = 1.03;
/** No cut is deeper at first, dB. */
const DEEPEST_DB = 12;
/** The places of the choices of what is heard. */
const [EVERYTHING, ONLY] = [0, 1];

interface Props {
  stage: StageDocument;
  index: number;
}

export function ResonanceList({ stage, index }: Props) {
  const resonances = useMeasured((m) => m.resonances);
  const edit = useBench((s) => s.edit);
  const choose = useGroups((g) => g.choose);
  const effect = effectOf(stage);
  const hold = holdOf(effect, "hear");
  const hear = hold && paramNamed(effect, hold.param);
  const heardBand = hold?.band ? paramNamed(effect, hold.band) : undefined;
  if (!hear || !heardBand) return null;

  const bandAt = ({ freq_hz }: Resonance) =>
    bandsOf(stage).find((band) => isUsual(effect, band) && Math.max(band.freqHz / freq_hz, freq_hz / band.freqHz) < NEAR);
  /** The stage with a bell at a resonance, and its number. */
  const withBell = (of: StageDocument, resonance: Resonance, number: number, gainDb: number) => {
    const belled = bandAt(resonance) ? of : withBand(of, number, Math.round(resonance.freq_hz * 10) / 10, 0);
    const narrow = withValue(belled, bandParam(effect, number, "q"), Math.round(resonance.q * 10) / 10);
    return withValue(narrow, bandParam(effect, number, "gain"), gainDb);
  };
  const act = (resonance: Resonance, what: "listen" | "cut") => {
    const there = bandAt(resonance);
    const number = there?.number ?? freeBand(stage);
    if (number === null) return;
    const cutDb = -Math.round(Math.min(DEEPEST_DB, resonance.prominence_db));
    const gainDb = what === "cut" ? cutDb : (there?.gainDb ?? 0);
    const label = `${what === "cut" ? "Cut" : "Listen to"} ${text("hz", resonance.freq_hz)}`;
    edit(label, (d) =>
      withStage(d, index, (s) => {
        const heard = withValue(withBell(s, resonance, number, gainDb), hear, what === "listen" ? ONLY : EVERYTHING);
        return withValue(heard, heardBand, number);
      }),
    );
    choose(effect.id, bandGroup(effect, number));
  };
  const listening = valueOf(stage, hear) !== EVERYTHING;
  return (
    <div className={classes.resonances} role="group" aria-label="Resonances">
      <div className={classes.strip}>
        <Button size="compact-sm" variant="default" onClick={findResonances}>
          Find resonances
        </Button>
        {listening && (
          <Button size="compact-sm" color="dark" onClick={() => edit("Hear everything", (d) => withStage(d, index, (s) => withValue(s, hear, EVERYTHING)))}>
            Hear everything again
          </Button>
        )}
      </div>
      {resonances?.hum && <p>{ofHum(resonances.hum)}</p>}
      {resonances?.others.length === 0 && !resonances.hum && <p>Nothing narrow stands out of this passage by 4 dB or more, most of the time.</p>}
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
              const cut = (bandAt(resonance)?.gainDb ?? 0) < 0;
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
                    <Button size="compact-xs" variant="default" aria-label={`Listen to ${name}`} onClick={() => act(resonance, "listen")}>
                      Listen
                    </Button>{" "}
                    <Button size="compact-xs" variant="default" disabled={cut} aria-label={`Cut ${name}`} onClick={() => act(resonance, "cut")}>
                      {cut ? "Cut \u2713" : "Cut"}
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
