/** Which value of an open fan is heard; none: the bench's own setting. Not part of the saved bench. */
import { create } from "zustand";

interface FanHeard {
  index: number | null;
  choose(index: number | null): void;
}

export const useFanHeard = create<FanHeard>()((set) => ({
  index: null,
  choose: (index) => set({ index }),
}));
