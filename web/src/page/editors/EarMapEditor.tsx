/** An own ear map: named, its regions typed in, drawn over the picture while they change, saved and deleted. */
import { ActionIcon, Button, Drawer, Group, Text, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, ApiFault } from "../../api/client";
import { useLooking } from "../../bench/analysing";
import { EAR_MAPS, type EarDraft, useEarEditing } from "../../bench/earMaps";
import { catalogue, earMapControl, nextRegion } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import type { EarRegion } from "../../generated/types/EarRegion";
import { ValueField } from "../../parts/ValueField";
import { useDeleting } from "../drawers/deleting";
import classes from "./ear-map.module.css";

const documentOf = ({ regions }: EarDraft) => ({ ...catalogue.own_ear_map, regions });

export function EarMapEditor() {
  const { history, saved, change, undo, end } = useEarEditing();
  const draft = history?.present ?? null;
  const client = useQueryClient();
  const set = useLooking((l) => l.set);
  const save = useMutation({
    mutationFn: ({ map, asNew }: { map: EarDraft; asNew: boolean }) =>
      saved && !asNew
        ? api.earMaps.update(saved.id, saved.revision, map.name, documentOf(map))
        : api.earMaps.create(map.name, documentOf(map)),
    onSuccess: async ({ id }) => {
      await client.invalidateQueries({ queryKey: [EAR_MAPS] });
      set({ earMap: id });
      end();
    },
    networkMode: "always",
  });
  // The list only: what has just been deleted may still be on the screen, and cannot be read again.
  const deleting = useDeleting({ queryKey: [EAR_MAPS], exact: true }, api.earMaps, () => {
    set({ earMap: null });
    end();
  });
  const close = () => {
    save.reset();
    end();
  };
  const edit = (label: string, next: Partial<EarDraft>) => {
    save.reset();
    change(label, next);
  };
  const stale = save.error instanceof ApiFault && ["stale", "not-found"].includes(save.error.code);
  const fault = save.error ?? deleting.error;
  return (
    <>
      {deleting.notice && draft === null && <div className={classes.notice}>{deleting.notice}</div>}
      <Drawer
        opened={draft !== null}
        onClose={close}
        position="right"
        size={400}
        padding="md"
        title={saved ? "Own ear map" : "New ear map"}
        withOverlay={false}
        lockScroll={false}
        trapFocus={false}
        closeOnClickOutside={false}
        // What has been edited goes by Cancel alone.
        closeOnEscape={history?.past.length === 0}
        withCloseButton={history?.past.length === 0}
      >
        {draft && (
          <>
            <TextInput
              label="Name of the map"
              value={draft.name}
              maxLength={120}
              data-autofocus
              onChange={({ target }) => edit("Name", { name: target.value })}
            />
            <Regions draft={draft} onChange={edit} />
            {fault && (
              <Text c="var(--clip)" size="sm" mt="sm" role="alert">
                {stale
                  ? "This map was saved or deleted elsewhere meanwhile. Nothing is overwritten."
                  : `Not saved: ${sentenceOf(fault)}.`}
              </Text>
            )}
            <Group gap="xs" mt="md">
              <Button
                size="sm"
                color="dark"
                loading={save.isPending}
                onClick={() => save.mutate({ map: draft, asNew: stale })}
              >
                {stale ? "Save mine as a new map" : "Save map"}
              </Button>
              <Button size="sm" variant="default" disabled={history?.past.length === 0} onClick={undo}>
                Undo in map
              </Button>
              <Button size="sm" variant="default" onClick={close}>
                Cancel
              </Button>
              {saved && (
                <Button size="sm" variant="default" onClick={() => deleting.remove(saved)}>
                  Delete map
                </Button>
              )}
            </Group>
            <p className={classes.rules}>{catalogue.ear_map_rules}</p>
          </>
        )}
      </Drawer>
    </>
  );
}

interface RegionsProps {
  draft: EarDraft;
  onChange: (label: string, next: Partial<EarDraft>) => void;
}

function Regions({ draft: { regions }, onChange }: RegionsProps) {
  const control = earMapControl();
  const put = (at: number, next: Partial<EarRegion>) =>
    onChange(`Region ${at + 1} ${Object.keys(next).join()}`, {
      regions: regions.map((region, i) => (i === at ? { ...region, ...next } : region)),
    });
  const add = () => {
    onChange("Add a region", { regions: [...regions, nextRegion(regions)] });
  };
  return (
    <table className={classes.regions} aria-label="Regions">
      <thead>
        <tr>
          <th scope="col">What one hears</th>
          <th scope="col">From</th>
          <th scope="col">To</th>
          <td />
        </tr>
      </thead>
      <tbody>
        {regions.map(({ name, from_hz, to_hz }, i) => (
          <tr key={i}>
            <td>
              <input
                className={classes.name}
                aria-label={`Name of region ${i + 1}`}
                maxLength={catalogue.longest_region_name}
                value={name}
                onChange={({ target }) => put(i, { name: target.value })}
              />
            </td>
            <td>
              <ValueField
                label={`Region ${i + 1} from`}
                control={control}
                value={from_hz}
                onChange={(hz) => put(i, { from_hz: hz })}
              />
            </td>
            <td>
              <ValueField
                label={`Region ${i + 1} to`}
                control={control}
                value={to_hz}
                onChange={(hz) => put(i, { to_hz: hz })}
              />
            </td>
            <td>
              <ActionIcon
                size="sm"
                variant="default"
                aria-label={`Remove region ${i + 1}`}
                onClick={() => onChange(`Remove region ${i + 1}`, { regions: regions.filter((_, k) => k !== i) })}
              >
                ×
              </ActionIcon>
            </td>
          </tr>
        ))}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={4}>
            <Button size="compact-sm" variant="default" onClick={add}>
              Add region
            </Button>
          </td>
        </tr>
      </tfoot>
    </table>
  );
}
