/** Sources that are made in a place of their own. Nothing else is needed to know them: workers ask, too. */
import type { SourceDocument } from "../generated/types/SourceDocument";

/** Whether a source is a room by its measures. */
export function isRoom(source: SourceDocument): boolean {
  return source.kind === "response-of-a-room";
}

/** Whether a source is made in a place of its own, and not by a few values. */
export function isMade(source: SourceDocument): boolean {
  return isRoom(source) || isDesign(source);
}

/** Whether a source is a designed response. */
function isDesign(source: SourceDocument): boolean {
  return source.kind === "response-by-design";
}
