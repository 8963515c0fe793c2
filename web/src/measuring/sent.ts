/** Shared paths among stems, and what is sent to them. */
import type { Send } from "../generated/types/Send";
import type { SourceDocument } from "../generated/types/SourceDocument";

/** The kind of what a shared path plays: what others send to it. */
export const SENT = "sent";

export const isShared = ({ source }: { source: SourceDocument }) => source.kind === SENT;

/** The places of the shared paths among some stems. */
export function sharedPlaces(stems: { source: SourceDocument }[]): number[] {
  return stems.flatMap((stem, place) => (isShared(stem) ? [place] : []));
}

/** What a stem sends to a shared path; none where it does not. */
export const sendTo = (stem: { sends?: Send[] }, to: number): Send | undefined =>
  stem.sends?.find((send) => send.to === to);
