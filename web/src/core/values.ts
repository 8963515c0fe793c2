/** Values of stages. */
import type { Param } from "../generated/types/Param";
import type { StageDocument } from "../generated/types/StageDocument";
import { fromFile } from "./numbers";

/** The id of the mix, which every stage has. */
export const MIX = "mix";

/** The value of a parameter, or of the mix, of a stage. */
export function valueOf(stage: StageDocument, param: Param): number {
  return param.id === MIX ? stage.mix : fromFile(stage.params?.[param.id], param.default);
}
