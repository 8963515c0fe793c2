/** Ear maps on the page: the shipped ones, the own ones that the server keeps, and the one that is being edited. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";

import { api, type Summary } from "../api/client";
import { catalogue } from "../core/core";
import type { EarRegion } from "../generated/types/EarRegion";
import { useLooking } from "./analysing";
import { act, begin, type History, undo } from "./history";

/** The query under which the list of own maps is kept, and each of them. */
export const EAR_MAPS = "ear-maps";

/** An own map while it is edited. */
export interface EarDraft {
  name: string;
  regions: EarRegion[];
}

interface Editing {
  /** What is edited; none while the editor is closed. */
  history: History<EarDraft> | null;
  /** The saved map that it is; none for a new one. */
  saved: Summary | null;
  begin(draft: EarDraft, saved: Summary | null): void;
  change(label: string, next: Partial<EarDraft>): void;
  undo(): void;
  end(): void;
}

export const useEarEditing = create<Editing>()((set) => ({
  history: null,
  saved: null,
  begin: (draft, saved) => set({ history: begin(draft), saved }),
  change: (label, next) =>
    set(({ history }) => ({
      history: history && act(history, { ...history.present, ...next }, label, label, performance.now()),
    })),
  undo: () => set(({ history }) => ({ history: history && undo(history) })),
  end: () => set({ history: null, saved: null }),
}));

/** All own maps: one chooses among them by name. */
export function useOwnEarMaps(): Summary[] {
  return useQuery({ queryKey: [EAR_MAPS], queryFn: allOwn }).data ?? [];
}

async function allOwn(): Promise<Summary[]> {
  const all: Summary[] = [];
  for (;;) {
    const { documents, goesOn } = await api.earMaps.page("", all.at(-1));
    all.push(...documents);
    if (!goesOn) return all;
  }
}

/** The chosen map as it is saved; while it comes in, and where none is chosen, nothing. */
export function useChosenEarMap(): EarDraft | null {
  const chosen = useLooking((l) => l.earMap);
  const own = typeof chosen === "number" ? chosen : null;
  const read = useQuery({
    queryKey: [EAR_MAPS, own],
    queryFn: () => api.earMaps.read(own ?? 0),
    enabled: own !== null,
  });
  if (own !== null) return read.data ? { name: read.data.name, regions: read.data.document.regions } : null;
  return catalogue.ear_maps.find(({ name }) => name === chosen) ?? null;
}

/** The regions that are drawn: those of the map that is edited, or of the one that is chosen. */
export function useEarRegions(): EarRegion[] {
  const edited = useEarEditing((e) => e.history?.present.regions);
  const chosen = useChosenEarMap();
  return edited ?? chosen?.regions ?? [];
}
