/** The lines of the chosen effect that can be dragged in a picture: threshold, ceiling, knee. */
import { valueOf, withStage, withValue } from "../bench/edits";
import { useBench, usePicturedStage } from "../bench/store";
import { effectControl, effectOf } from "../core/core";
import { fromFile } from "../core/numbers";
import type { Param } from "../generated/types/Param";
import type { HandleOf } from "../plot/Handle";

/** The level at which the chosen effect begins to act on the level of the whole sound, if it has one. */
export function useBendingLevel(): { param: Param; value: number; on: boolean } | null {
  const { stage } = usePicturedStage();
  if (!stage) return null;
  const effect = effectOf(stage);
  if (!effect.pictures.includes("in-to-out")) return null;
  const param = effect.params.find(({ id }) => id === "threshold_db" || id === "ceiling_db");
  return param ? { param, value: valueOf(stage, param), on: stage.on } : null;
}

/** A handle for a parameter of the chosen stage. */
export function useHandle(param: Param | undefined, along: "x" | "y"): HandleOf | null {
  const { stage, index } = usePicturedStage();
  const edit = useBench((s) => s.edit);
  if (!stage || !param) return null;
  const control = effectControl(stage.effect, param.id);
  const value = valueOf(stage, param);
  return {
    label: param.label,
    control,
    value,
    along,
    initial: fromFile(param.default, 0),
    onChange: (next) => {
      if (next === value) return;
      edit(`${param.label} ${control.text(next)}`, (d) => withStage(d, index, (s) => withValue(s, param, next)), `${index} ${param.id}`);
    },
  };
}
