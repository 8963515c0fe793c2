/** What every wall takes, octave by octave, and how long the room rings: after Sabine, after Eyring, and measured in its response. */
import { NativeSelect } from "@mantine/core";

import { signalControl, text } from "../../../core/core";
import type { Param } from "../../../generated/types/Param";
import type { RoomMeasured } from "../../../generated/types/RoomMeasured";
import type { RoomPlan } from "../../../generated/types/RoomPlan";
import { ValueField } from "../../../parts/ValueField";
import classes from "./room.module.css";
import type { EditedRoom } from "./editedRoom";

interface Props {
  edited: EditedRoom;
  plan: RoomPlan;
  measured: RoomMeasured | undefined;
}

/** The settings of the walls in their order: the kind of surface, then what it takes in every octave. */
function wallsOf(params: Param[]): { surface: Param; shares: Param[] }[] {
  const all = params.filter(({ group }) => group === "Walls");
  return all.flatMap((surface, at) =>
    surface.choices.length > 0 ? [{ surface, shares: all.slice(at + 1, at + 7) }] : [],
  );
}

const seconds = (value: number | null | undefined) => text("fine-s", value ?? null);

export function RoomWalls({ edited, plan, measured }: Props) {
  const { room, valueOf, set } = edited;
  return (
    <div className={classes.walls} tabIndex={0} role="region" aria-label="Walls and decay">
      <table>
        <thead>
          <tr>
            <th scope="col">What walls take</th>
            {plan.decays.map(({ freq_hz }) => (
              <th key={freq_hz} scope="col">
                {text("hz", freq_hz)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {wallsOf(edited.params).map(({ surface, shares }, wall) => (
            <tr key={surface.id}>
              <th scope="row">
                <NativeSelect
                  size="xs"
                  label={surface.label}
                  value={String(valueOf(surface))}
                  data={surface.choices.map((choice, i) => ({ value: String(i), label: choice }))}
                  onChange={({ target }) => set([[surface, Number(target.value)]])}
                />
              </th>
              {shares.map((share, band) => {
                const taken = plan.absorption[wall] ?? [];
                // A value that is set by hand makes the wall one that is set by hand; its others stay what they are.
                const byHand = (next: number): [Param, number][] => [
                  [surface, 0],
                  ...shares.map((each, i): [Param, number] => [each, i === band ? next : (taken[i] ?? 0)]),
                ];
                return (
                  <td key={share.id}>
                    <ValueField
                      label={share.label}
                      control={signalControl(room.kind, share.id)}
                      value={taken[band] ?? 0}
                      onChange={(next) => set(byHand(next))}
                    />
                  </td>
                );
              })}
            </tr>
          ))}
          <tr>
            <th scope="row">All together</th>
            {plan.decays.map(({ freq_hz, mean_absorption }) => (
              <td key={freq_hz}>{text("percent", mean_absorption)}</td>
            ))}
          </tr>
          <tr>
            <th scope="row">Decay after Sabine</th>
            {plan.decays.map(({ freq_hz, sabine_s }) => (
              <td key={freq_hz}>{seconds(sabine_s)}</td>
            ))}
          </tr>
          <tr>
            <th scope="row">Decay after Eyring</th>
            {plan.decays.map(({ freq_hz, eyring_s }) => (
              <td key={freq_hz}>{seconds(eyring_s)}</td>
            ))}
          </tr>
          <tr data-row="measured">
            <th scope="row">T30, measured</th>
            {plan.decays.map(({ freq_hz }, band) => (
              <td key={freq_hz}>{seconds(measured?.t30_s[band])}</td>
            ))}
          </tr>
        </tbody>
      </table>
    </div>
  );
}
