/** How pictures are looked at, and spectra taken: a matter of this window, not of the bench. */
import { create } from "zustand";
import { persist } from "zustand/middleware";

import type { Analysing } from "../generated/types/Analysing";
import type { Beside } from "./beside";

interface Looking {
  how: Analysing;
  /** Whether the picture has the page for itself. */
  large: boolean;
  /** Half the height of the axis of gains, dB. */
  zoomDb: number;
  /** By how much the spectra are raised, dB. */
  offsetDb: number;
  /** The ear map that is drawn over the picture: the name of a shipped one or the number of an own one; none for none. */
  earMap: string | number | null;
  /** The stem that the one at work is held against; none for the next one. */
  other: number | null;
  /** Whether the highest levels stay. */
  holds: boolean;
  /** Whether the spectra stand still. */
  frozen: boolean;
  /** Whether the spectra of what is playing are shown, rather than those of the whole passage. */
  live: boolean;
  /** The tone whose sidebands are shown, Hz, and the octave whose envelope is; none for all of them. */
  toneHz: number;
  bandHz: number | null;
  /** Whether the table of measures is open, as it was left by hand; none: as there is room for it. */
  tableOpen: boolean | null;
  /** Whether what is sent is compared with inserts. */
  comparing: boolean;
  /** What the picture is shown of beside. */
  beside: Beside | null;
  set(change: Partial<Omit<Looking, "set">>): void;
}

export const useLooking = create<Looking>()(
  persist(
    (set) => ({
      how: { scope: "stereo", resolution: "medium", fall_db_s: 40, averages: false, smooth_octaves: 1 / 12 },
      large: false,
      zoomDb: 18,
      offsetDb: 0,
      earMap: null,
      other: null,
      holds: false,
      frozen: false,
      live: true,
      toneHz: 1000,
      bandHz: null,
      tableOpen: null,
      comparing: false,
      beside: null,
      set: (change) => set(change),
    }),
    // How the axes lie, and which ranges are named, is what one wants to find again.
    { name: "clear-bend looking", partialize: ({ earMap, zoomDb, offsetDb }) => ({ earMap, zoomDb, offsetDb }) },
  ),
);
