/** What is read off the response of a stage that is a room (ISO 3382-1 and beyond): over all, and by octave. */
import { memo } from "react";

import { justNoticeable, text } from "../../core/core";
import type { DecayFit } from "../../generated/types/DecayFit";
import type { Room } from "../../generated/types/Room";
import type { Unit } from "../../generated/types/Unit";
import { useMeasured } from "../../measuring/measured";
import classes from "./picture-column.module.css";

const seconds = (fit: DecayFit | null) => text("fine-s", fit?.seconds ?? null);

interface Reading {
  name: string;
  unit: Unit;
  value: number | null;
  /** Its name in the list of just noticeable differences, where it stands there. */
  id?: string;
}

/** A number of the room, and by how much it must change to be heard to be another one. */
function Row({ name, unit, value, id }: Reading) {
  const step = id && value !== null ? justNoticeable(id, value) : undefined;
  return (
    <div>
      <dt>{name}</dt>
      <dd>
        {text(unit, value)}
        {step !== undefined && (
          <small title="A smaller change is not heard by itself (ISO 3382-1)">
            {" "}
            heard from {"\u00b1"}
            {text(unit, step)}
          </small>
        )}
      </dd>
    </div>
  );
}

interface Props {
  room: Room;
  /** How far the pitch of a tone's tail wobbles, cents; none where nothing rings. */
  wobbleCents: number | null;
}

export const RoomTable = memo(function RoomTable({ room, wobbleCents }: Props) {
  const cost = useMeasured((m) => m.cost);
  const { times, energies, octaves } = room;
  const rows: Reading[] = [
    { name: "EDT", unit: "fine-s", value: times.edt?.seconds ?? null, id: "edt_s" },
    { name: "T20", unit: "fine-s", value: times.t20?.seconds ?? null, id: "t20_s" },
    { name: "T30", unit: "fine-s", value: times.t30?.seconds ?? null, id: "t30_s" },
    { name: "T30, 500 Hz and 1 kHz", unit: "fine-s", value: room.middle_t30_s, id: "t30_s" },
    { name: "C50", unit: "db", value: energies.c50_db, id: "c50_db" },
    { name: "C80", unit: "db", value: energies.c80_db, id: "c80_db" },
    { name: "D50", unit: "percent", value: energies.d50, id: "d50" },
    { name: "Centre time", unit: "ms", value: energies.centre_ms, id: "centre_time_ms" },
    { name: "Direct over reverb", unit: "db", value: energies.direct_db },
    { name: "Begins after", unit: "ms", value: room.gap_ms },
    { name: "Dense after", unit: "ms", value: room.dense_ms },
    { name: "Left to right", unit: "signed", value: room.correlation },
    { name: "Single modes", unit: "db", value: room.ringing_db },
    { name: "Wobble of a tone", unit: "cents", value: wobbleCents ?? NaN },
    { name: "Takes of one core here", unit: "fine-percent", value: cost ?? NaN },
  ];
  return (
    <details className={classes.measures} aria-label="Room">
      <summary>
        Room: T30 <b>{seconds(times.t30)}</b>, C80 <b>{text("db", energies.c80_db)}</b>, all numbers by octave
      </summary>
      <dl className={classes.room}>
        {rows.map((row) => (
          <Row key={row.name} {...row} />
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
