/** The response of a stage that is a room, as its pictures need it. */
import { roomJson } from "../generated/wasm/clear_bend_wasm.js";
import type { RoomView } from "../generated/types/RoomView";
import type { RoomPicture } from "./messages";

/** Columns of the response by parts. */
const COLUMNS = 640;
/** What the picture of the first reflections shows, s. */
const FIRST_S = 0.2;

export function roomOf(path: string, stage: number, picture: RoomPicture): RoomView | null {
  return JSON.parse(roomJson(path, stage, COLUMNS, picture === "first-reflections" ? FIRST_S : 0)) as RoomView | null;
}
