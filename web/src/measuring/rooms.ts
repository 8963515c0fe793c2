/** The response of a stage that is a room, as a picture of it needs it. */
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";
import type { RoomPicture, RoomViews } from "./messages";

/** Columns of the response by parts. */
const COLUMNS = 640;

export function roomOf<P extends RoomPicture>(bench: MeasuringBench, path: string, stage: number, picture: P): RoomViews[P] | null {
  return JSON.parse(bench.roomJson(path, stage, picture, COLUMNS)) as RoomViews[P] | null;
}
