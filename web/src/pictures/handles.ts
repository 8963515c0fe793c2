/** The lines of the chosen effect that can be dragged in a picture: threshold, ceiling, knee. */
import { withStage, withValue } from "../bench/edits";
import { valueOf } from "../core/values";
import { useBench, usePicturedStage } from "../bench/store";
import { effectControl, effectOf, holdOf, paramNamed } from "../core/core";
import { fromFile } from "../core/numbers";
import type { Param } from "../generated/types/Param";
import type { HandleOf } from "../plot/Handle";

interface BendingLevel {
  param: Param;
  /** The width of its knee, if it has one. */
  knee: Param | undefined;
  value: number;
  on: boolean;
}

/** The level at which the chosen effect begins to act on the level of the whole sound, if it has one. */
export function useBendingLevel(): BendingLevel | null {
  const { stage } = usePicturedStage();
  if (!stage) return null;
  const effect = effectOf(stage);
  const hold = holdOf(effect, "level");
  const param = hold && paramNamed(effect, hold.param);
  if (!param) return null;
  return {
    param,
    knee: hold.knee === null ? undefined : paramNamed(effect, hold.knee),
    value: valueOf(stage, param),
    on: stage.on,
  };
}

/** A handle for a parameter of the chosen stage. */
export function useHandle(param: Param | undefined, along: "x" | "y"): HandleOf | null {
  const { stage, index, held } = usePicturedStage();
  const edit = useBench((s) => s.edit);
  if (!stage || !param || !held) return null;
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
      edit(
        `${param.label} ${control.text(next)}`,
        (d) => withStage(d, index, (s) => withValue(s, param, next)),
        `${index} ${param.id}`,
      );
    },
  };
}
