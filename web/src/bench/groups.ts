/** Which of an effect's parameters are shown: those of one group at a time, where there are groups. */
import { create } from "zustand";

import { paramsOf } from "../core/core";
import type { Effect } from "../generated/types/Effect";
import type { Param } from "../generated/types/Param";

interface Groups {
  /** The group that was chosen last, by effect. */
  chosen: Record<string, string>;
  choose(effect: string, group: string): void;
}

export const useGroups = create<Groups>()((set) => ({
  chosen: {},
  choose: (effect, group) => set(({ chosen }) => ({ chosen: { ...chosen, [effect]: group } })),
}));

/** The groups of an effect in the order of its parameters; empty where all parameters stand together. */
export function groupsOf(effect: Effect): string[] {
  return [...new Set(effect.params.map((param) => param.group))].filter((group) => group !== "");
}

/** The group that is shown: that of the parameter in the spotlight, or the one that was chosen last. */
export function shownGroup(effect: Effect, spotlight: string | null, chosen: Record<string, string>): string | null {
  const groups = groupsOf(effect);
  const lit = paramsOf(effect).find((param) => param.id === spotlight);
  return groups.length === 0
    ? null
    : (lit && groups.includes(lit.group) && lit.group) || (chosen[effect.id] ?? groups[0] ?? null);
}

/** The parameters that are shown. */
export function shownParams(effect: Effect, spotlight: string | null, chosen: Record<string, string>): Param[] {
  const group = shownGroup(effect, spotlight, chosen);
  return paramsOf(effect).filter((param) => group === null || param.group === group);
}
