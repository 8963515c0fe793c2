/** Which value of an open fan is heard; none: the bench's own setting. Not part of the saved bench. */
import { create } from "zustand";

import { useMeasured } from "../measuring/measured";
import type { FanBlade } from "../measuring/messages";

interface FanHeard {
  index: number | null;
  choose(index: number | null): void;
}

export const useFanHeard = create<FanHeard>()((set) => ({
  index: null,
  choose: (index) => set({ index }),
}));

/** The value of the open fan that is heard; none where the bench's own setting is. */
export function useHeardBlade(): FanBlade | null {
  const index = useFanHeard((f) => f.index);
  return useMeasured((m) => (index === null ? null : (m.fan?.blades[index] ?? null)));
}
