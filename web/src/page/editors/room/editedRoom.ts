import type { Param } from "../../../generated/types/Param";
import type { SourceDocument } from "../../../generated/types/SourceDocument";

/** A room that is being edited. */
export interface EditedRoom {
  room: SourceDocument;
  params: Param[];
  valueOf: (param: Param) => number;
  /** Moves some of its measures; moves of one hand, which share a key, are one step. */
  set: (values: [Param, number][], mergeKey?: string) => void;
}
