/** The bands of an equaliser as they stand in a stage. */
import type { Effect } from "../generated/types/Effect";
import type { Hold } from "../generated/types/Hold";
import type { Param } from "../generated/types/Param";
import type { StageDocument } from "../generated/types/StageDocument";
import { effectOf, holdOf, paramNamed } from "../core/core";
import { fromFile } from "../core/numbers";
import { withValue } from "./edits";
import { valueOf } from "../core/values";

export interface Band {
  /** Its number, from 1. */
  number: number;
  group: string;
  kind: string;
  on: boolean;
  freqHz: number;
  gainDb: number;
  q: number;
  scope: string;
}

/** What the parameters of a band are for. */
type Which = Exclude<keyof Extract<Hold, { what: "bands" }>, "what">;

/** A parameter of a band; an equaliser has it, the catalogue says so. */
export function bandParam(effect: Effect, number: number, which: Which): Param {
  const id = holdOf(effect, "bands")?.[which].replace("#", String(number));
  const found = id === undefined ? undefined : paramNamed(effect, id);
  if (!found) throw new Error(`The ${effect.label.toLowerCase()} has no ${which} of a band ${number}.`);
  return found;
}

/** Whether an effect has bands that come and go one by one. */
export function hasBands(effect: Effect): boolean {
  return holdOf(effect, "bands") !== undefined;
}

function bandOf(stage: StageDocument, number: number): Band {
  const effect = effectOf(stage);
  const value = (which: Which) => valueOf(stage, bandParam(effect, number, which));
  const choice = (which: Which) => bandParam(effect, number, which).choices[value(which)] ?? "";
  return {
    number,
    group: bandGroup(effect, number),
    kind: choice("kind"),
    on: value("on") === 1,
    freqHz: value("freq"),
    gainDb: value("gain"),
    q: value("q"),
    scope: choice("scope"),
  };
}

/** The numbers of the bands that are there, or of those that are not. */
function numbers(stage: StageDocument, there: boolean): number[] {
  const effect = effectOf(stage);
  const [start] = holdOf(effect, "bands")?.kind.split("#") ?? [];
  const kinds = start === undefined ? [] : effect.params.filter(({ id }) => id.startsWith(start));
  // The first kind is that of no band.
  return kinds.flatMap((kind, i) => (valueOf(stage, kind) > 0 === there ? [i + 1] : []));
}

/** The bands that are there. */
export function bandsOf(stage: StageDocument): Band[] {
  return numbers(stage, true).map((number) => bandOf(stage, number));
}

/** The number of the next band that could be added; none when all are there. */
export function freeBand(stage: StageDocument): number | null {
  return numbers(stage, false)[0] ?? null;
}

/** The group of the parameters of a band. */
export function bandGroup(effect: Effect, number: number): string {
  return bandParam(effect, number, "kind").group;
}

/** The kind of a new band: the first that is usual. */
function usualKind(effect: Effect): number {
  return fromFile(bandParam(effect, 1, "kind").usual[0]?.value, 1);
}

/** Whether a band is of the kind that new ones are. */
export function isUsual(effect: Effect, band: Band): boolean {
  return bandParam(effect, band.number, "kind").choices[usualKind(effect)] === band.kind;
}

/** A new band; the rest of it is as the catalogue says. */
export function withBand(stage: StageDocument, number: number, freqHz: number, gainDb: number): StageDocument {
  const effect = effectOf(stage);
  const cleared = withoutBand(stage, number);
  const shaped = withValue(cleared, bandParam(effect, number, "kind"), usualKind(effect));
  return withValue(
    withValue(shaped, bandParam(effect, number, "freq"), freqHz),
    bandParam(effect, number, "gain"),
    gainDb,
  );
}

/** Without a band: all of its values go back to their defaults. */
export function withoutBand(stage: StageDocument, number: number): StageDocument {
  const effect = effectOf(stage);
  const group = bandGroup(effect, number);
  const ids = new Set(effect.params.filter((param) => param.group === group).map(({ id }) => id));
  return { ...stage, params: Object.fromEntries(Object.entries(stage.params ?? {}).filter(([id]) => !ids.has(id))) };
}
