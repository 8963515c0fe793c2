/** The response of a stage that is a room, as a picture of it needs it. */
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";
import type { PathDocument } from "../generated/types/PathDocument";
import type { RoomPicture, RoomViews } from "./messages";

/** Columns of the response by parts. */
const COLUMNS = 640;

export function roomOf<P extends RoomPicture>(
  bench: MeasuringBench,
  path: PathDocument,
  stage: number,
  picture: P,
): RoomViews[P] | null {
  // The core answers for the picture that it is asked for.
  return bench.room(path, stage, picture, COLUMNS) as RoomViews[P] | null;
}
