/** Which ear map is drawn over the picture, and the way to an own one. */
import { Button, NativeSelect } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { useChosenEarMap, useEarEditing, useOwnEarMaps } from "../../bench/earMaps";
import { catalogue } from "../../core/core";

/** Regions of a map that is begun with none chosen. */
const FIRST = [{ from_hz: 200, to_hz: 500, name: "body" }];

export function EarMapChoice() {
  const { earMap, set } = useLooking();
  const own = useOwnEarMaps();
  const chosen = useChosenEarMap();
  const { history, begin } = useEarEditing();
  const saved = own.find(({ id }) => id === earMap) ?? null;
  const edit = () =>
    saved && chosen
      ? begin(chosen, saved)
      : begin({ name: chosen ? `${chosen.name}, mine` : "My ear map", regions: chosen?.regions ?? FIRST }, null);
  return (
    <>
      <NativeSelect
        size="xs"
        aria-label="Ear map"
        value={earMap ?? ""}
        disabled={history !== null}
        data={[
          { value: "", label: "No ear map" },
          ...catalogue.ear_maps.map(({ name }) => ({ value: name, label: name })),
          ...(own.length > 0
            ? [{ group: "Own maps", items: own.map(({ id, name }) => ({ value: String(id), label: name })) }]
            : []),
        ]}
        onChange={({ target }) => {
          const ofOwn = own.find(({ id }) => String(id) === target.value);
          set({ earMap: ofOwn?.id ?? (target.value || null) });
        }}
      />
      <Button size="compact-sm" variant="default" disabled={history !== null} onClick={edit}>
        {saved ? "Edit map" : "Own map"}
      </Button>
    </>
  );
}
