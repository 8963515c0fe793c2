/** What is read off the response of a stage that is a room (ISO 3382-1 and beyond): over all, and by octave. */
import { memo } from "react";

import { text } from "../core/core";
import type { DecayFit } from "../generated/types/DecayFit";
import type { Room } from "../generated/types/Room";
import classes from "./picture-column.module.css";

const seconds = (fit: DecayFit | null) => text("fine-s", fit?.seconds ?? null);

export const RoomTable = memo(function RoomTable({ room }: { room: Room }) {
  const { times, energies, octaves } = room;
  const rows: [string, string][] = [
    ["EDT", seconds(times.edt)],
    ["T20", seconds(times.t20)],
    ["T30", seconds(times.t30)],
    ["T30, 500 Hz and 1 kHz", text("fine-s", room.middle_t30_s)],
    ["C50", text("db", energies.c50_db)],
    ["C80", text("db", energies.c80_db)],
    ["D50", text("percent", energies.d50)],
    ["Centre time", text("ms", energies.centre_ms)],
    ["Direct over reverb", text("db", energies.direct_db)],
    ["Begins after", text("ms", room.gap_ms)],
    ["Dense after", text("ms", room.dense_ms)],
    ["Left to right", text("signed", room.correlation)],
    ["Single modes", text("db", room.ringing_db)],
  ];
  return (
    <details className={classes.measures} aria-label="Room">
      <summary>
        Room: T30 <b>{seconds(times.t30)}</b>, C80 <b>{text("db", energies.c80_db)}</b>, all numbers by octave
      </summary>
      <dl className={classes.room}>
        {rows.map(([name, value]) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      <table>
        <thead>
          <tr>
            <th scope="col">Octave</th>
            {octaves.map((octave) => (
              <th key={octave.freq_hz} scope="col">
                {text("hz", octave.freq_hz)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {(["edt", "t20", "t30"] as const).map((name) => (
            <tr key={name}>
              <th scope="row">{name.toUpperCase()}</th>
              {octaves.map((octave) => (
                <td key={octave.freq_hz} title={octave.times[name] ? undefined : (octave.times.why ?? undefined)}>
                  {seconds(octave.times[name])}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <th scope="row">One response scatters by</th>
            {octaves.map((octave) => (
              <td key={octave.freq_hz}>{text("percent", octave.scatter)}</td>
            ))}
          </tr>
        </tbody>
      </table>
      {times.why && <p>{times.why}</p>}
    </details>
  );
});
