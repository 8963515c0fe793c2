/** How the spectra are taken and shown, and how far the axis of gains reaches. */
import { Button, NativeSelect, Popover, Switch } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { bandwidthHz, text } from "../../core/core";
import type { Scope } from "../../generated/types/Scope";
import type { Resolution } from "../../generated/types/Resolution";
import { tickText } from "../../plot/drawing";
import { EarMapChoice } from "./EarMapChoice";
import classes from "../pictures.module.css";

const SCOPES: Scope[] = ["stereo", "left", "right", "mid", "side"];
const RESOLUTIONS: Resolution[] = ["coarse", "medium", "fine"];
const FALLS_DB_S = [0, 20, 40, 80, 160];
/** The last part of an octave that powers are averaged over; 0 for none of it. */
const SMOOTHS = [0, 24, 12, 6, 3];
const ZOOMS_DB = [6, 12, 18, 30, 60];
const OFFSETS_DB = [-12, 0, 12, 24, 36];

/** "1/12 octave". */
export function smoothText(octaves: number): string {
  return octaves === 0 ? "nothing" : `1/${Math.round(1 / octaves)} octave`;
}

export function AnalyserBar() {
  const { how, zoomDb, offsetDb, holds, frozen, live, set } = useLooking();
  return (
    <div className={classes.bar}>
      <NativeSelect
        size="xs"
        aria-label="Zoom of the axis of gains"
        value={String(zoomDb)}
        data={ZOOMS_DB.map((db) => ({ value: String(db), label: `±${db} dB` }))}
        onChange={({ target }) => set({ zoomDb: Number(target.value) })}
      />
      <EarMapChoice />
      <Switch size="xs" label="Freeze" checked={frozen} onChange={() => set({ frozen: !frozen })} />
      <Switch size="xs" label="Hold peaks" checked={holds} onChange={() => set({ holds: !holds })} />
      <Popover position="bottom-end" trapFocus>
        <Popover.Target>
          <Button size="compact-sm" variant="default">
            Spectra
          </Button>
        </Popover.Target>
        <Popover.Dropdown className={classes.spectra}>
          <Switch
            size="xs"
            label="Of what plays (else of the whole passage)"
            checked={live}
            onChange={() => set({ live: !live })}
          />
          <Switch
            size="xs"
            label="Averaged since now"
            checked={how.averages}
            onChange={() => set({ how: { ...how, averages: !how.averages } })}
          />
          <NativeSelect
            size="xs"
            label="Scope"
            value={how.scope}
            data={SCOPES}
            onChange={({ target }) => set({ how: { ...how, scope: target.value as Scope } })}
          />
          <NativeSelect
            size="xs"
            label="Resolution: what one reading takes in"
            value={how.resolution}
            data={RESOLUTIONS.map((resolution) => ({
              value: resolution,
              label: `${resolution}, ${text("hz", bandwidthHz(resolution))}`,
            }))}
            onChange={({ target }) => set({ how: { ...how, resolution: target.value as Resolution } })}
          />
          <NativeSelect
            size="xs"
            label="Smoothed over (the line of a tone gets lower as it gets wider)"
            value={String(how.smooth_octaves && Math.round(1 / how.smooth_octaves))}
            data={SMOOTHS.map((part) => ({ value: String(part), label: smoothText(part && 1 / part) }))}
            onChange={({ target }) =>
              set({ how: { ...how, smooth_octaves: Number(target.value) && 1 / Number(target.value) } })
            }
          />
          <NativeSelect
            size="xs"
            label="Levels fall by"
            value={String(how.fall_db_s)}
            data={FALLS_DB_S.map((fall) => ({
              value: String(fall),
              label: fall === 0 ? "nothing: the highest stay" : `${fall} dB per second`,
            }))}
            onChange={({ target }) => set({ how: { ...how, fall_db_s: Number(target.value) } })}
          />
          <NativeSelect
            size="xs"
            label="Raised by"
            value={String(offsetDb)}
            data={OFFSETS_DB.map((db) => ({ value: String(db), label: `${tickText(db)} dB` }))}
            onChange={({ target }) => set({ offsetDb: Number(target.value) })}
          />
        </Popover.Dropdown>
      </Popover>
    </div>
  );
}
