/** What pictures of rooms share: the response that is shown, the fan of it, and how both are drawn over each other. */
import { useMeasured, useShown } from "../../measuring/measured";
import type { RoomPicture } from "../../measuring/messages";
import type { RoomView } from "../../generated/types/RoomView";
import { fanShade } from "../../plot/drawing";

export interface RoomShown {
  /** The response with the settings as they are; none while it is measured, and null where the stage is no room. */
  view: RoomView | null | undefined;
  /** The responses that are drawn: that one, or those of an open fan, from light to dark. */
  drawn: { view: RoomView; share: number }[];
  fanned: boolean;
  version: string;
  stale: boolean;
}

export function useRoom<P extends RoomPicture>(picture: P): RoomShown {
  const shown = useShown(picture) as { view: RoomView | null } | null;
  const id = useMeasured((m) => m.shownId);
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const fan = useMeasured((m) => m.fan);
  const blades = fan?.blades.flatMap((blade, i) => (blade.room ? [{ view: blade.room, share: fanShade(i, fan.count) }] : [])) ?? [];
  const view = shown?.view;
  const drawn = blades.length > 0 ? blades : view ? [{ view, share: 1 }] : [];
  return { view, drawn, fanned: blades.length > 0, version: `${id} ${fan ? `${fan.id} ${blades.length}` : ""}`, stale };
}

/** What stands where there is nothing to draw. */
export const waitingText = (view: RoomView | null | undefined) =>
  view === null ? "This stage is no room: choose a reverb to see how it falls." : "Sending an impulse through the room\u2026";
