/** What pictures of rooms share: the response that is shown, the fan of it, and how both are drawn over each other. */
import { usePicturedStage } from "../../bench/store";
import { setDecaysOf } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import type { RoomPicture, RoomViews } from "../../measuring/messages";
import { fanShade } from "../../plot/drawing";

export interface RoomShown<V> {
  /** The response with the settings as they are; none while it is measured, and null where the stage is no room. */
  view: V | null | undefined;
  /** The responses that are drawn: that one, or those of an open fan, from light to dark. */
  drawn: { view: V; share: number }[];
  fanned: boolean;
  version: string;
  stale: boolean;
}

export function useRoom<P extends RoomPicture>(picture: P): RoomShown<RoomViews[P]> {
  type View = RoomViews[P];
  const shown = useShown(picture) as { view: View | null } | null;
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const fan = useMeasured((m) => m.fan);
  const blades =
    fan?.blades.flatMap((blade, i) =>
      blade.room ? [{ view: blade.room as View, share: fanShade(i, fan.count) }] : [],
    ) ?? [];
  const view = shown?.view;
  const drawn = blades.length > 0 ? blades : view ? [{ view, share: 1 }] : [];
  return { view, drawn, fanned: blades.length > 0, version: `${id} ${fan ? `${fan.id} ${blades.length}` : ""}`, stale };
}

/** The decay times that the stage in the picture sets at some frequencies, s: they follow the hand, before anything is measured. */
export function useSetDecays(freqsHz: number[]): (number | null)[] {
  const { stage } = usePicturedStage();
  return stage ? setDecaysOf(stage, freqsHz) : [];
}

/** What stands where there is nothing to draw. */
export const waitingText = (view: unknown) =>
  view === null
    ? "This stage is no room: choose a reverb to see how it falls."
    : "Sending an impulse through the room\u2026";
