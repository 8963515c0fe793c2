/** The core on the page: catalogue, controls, texts. Everything is asked of it; nothing is computed here. */
import init, {
  bandwidthHz,
  catalogue as catalogueOfCore,
  checkBench,
  checkPath,
  Control,
  curves,
  explained,
  isUnnoticed,
  justNoticeable,
  LiveSpectra,
  logFreqs,
  moment,
  noteText,
  proposedFan,
  setDecays,
  snapped,
  unitText,
} from "../generated/wasm/clear_bend_wasm.js";

export {
  audible,
  acting,
  differences,
  factor,
  freshBench,
  levelText,
  freePlaceHz,
  nextRegion,
  predictedMatchDb as predictedMatch,
  programVersion,
  region as regionBetween,
  roomPlan,
  roomWithin,
  sharedStage as sharingStage,
  usualRegion,
} from "../generated/wasm/clear_bend_wasm.js";
import moduleUrl from "../generated/wasm/clear_bend_wasm_bg.wasm?url";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Catalogue } from "../generated/types/Catalogue";
import type { Curves } from "../generated/types/Curves";
import type { Effect } from "../generated/types/Effect";
import type { Hold } from "../generated/types/Hold";
import type { NotchMoment } from "../generated/types/NotchMoment";
import type { Param } from "../generated/types/Param";
import type { SignalKind } from "../generated/types/SignalKind";
import type { StageDocument } from "../generated/types/StageDocument";
import type { Unit } from "../generated/types/Unit";

/** The compiled module's bytes, fetched once for the page, the worker and the audio thread. */
export let moduleBytes: ArrayBuffer;
export let catalogue: Catalogue;

export async function startCore(): Promise<void> {
  const answer = await fetch(moduleUrl);
  if (!answer.ok) throw new Error(`The core could not be loaded: the server answered ${answer.status}.`);
  moduleBytes = await answer.arrayBuffer();
  await init({ module_or_path: moduleBytes.slice(0) });
  catalogue = catalogueOfCore();
}

/** The bench in the core's own spelling; throws the core's sentence if it is not one. */
export function checkedBench(document: unknown): BenchDocument {
  return checkBench(JSON.stringify(document));
}

/** A path file in the core's own spelling; throws the core's sentence if it is not one. */
export const checkedPath = checkPath;

export { bandwidthHz, explained, isUnnoticed, justNoticeable, LiveSpectra, logFreqs, noteText, proposedFan, snapped };

/** The curves of a stage by its formulas at some frequencies; none for stages that are no filters. */
export function curvesOf(stage: StageDocument, freqsHz: Float64Array, rateHz = RATE_HZ): Curves | null {
  return curves(stage, rateHz, freqsHz);
}

/** The decay times that a stage sets at some frequencies, s; null where it never ends, and nothing at all where it sets none. */
export function setDecaysOf(stage: StageDocument, freqsHz: number[]): (number | null)[] {
  return Array.from(setDecays(stage, new Float64Array(freqsHz)), (set) => (Number.isNaN(set) ? null : set));
}

/** Points of the response at a moment of a cycle. */
const MOMENT_POINTS = 400;

const moments = new WeakMap<StageDocument, Map<number, NotchMoment | null>>();

/** The response of a stage at a place of its cycle, measured once: some milliseconds, so that it follows a hand; none where it does not move. */
export function momentOf(stage: StageDocument, place: number): NotchMoment | null {
  const known = moments.get(stage) ?? new Map<number, NotchMoment | null>();
  moments.set(stage, known);
  let found = known.get(place);
  if (found === undefined) {
    found = moment(stage, place, MOMENT_POINTS);
    known.set(place, found);
  }
  return found;
}

/** The rate at which benches run, Hz. */
export const RATE_HZ = 48_000;

/** How many channels a sound has, in words. */
export function channelsText(channels: number): string {
  return channels === 1 ? "mono" : channels === 2 ? "stereo" : "true stereo";
}

/** A value with its unit; `null` is how JSON shows negative infinity. */
export function text(unit: Unit, value: number | null): string {
  return unitText(unit, value ?? -Infinity);
}

/** A gain or a change in dB with its sign; what reads as 0.0 has none. */
export function signedDb(value: number): string {
  return `${value > 0.05 ? "+" : ""}${text("db", value)}`;
}

export function effectNamed(id: string): Effect {
  const effect = catalogue.effects.find((e) => e.id === id);
  if (!effect) throw new Error(`The effect ${id} is not in the catalogue.`);
  return effect;
}

export function effectOf(stage: StageDocument): Effect {
  return effectNamed(stage.effect);
}

/** The kind of signal of a source; none for a kept track. */
export function signalOf(kind: string): SignalKind | undefined {
  return catalogue.signals.find((s) => s.id === kind);
}

const paramsById = new WeakMap<Effect, Map<string, Param>>();

/** A parameter of an effect by its id. */
export function paramNamed(effect: Effect, id: string): Param | undefined {
  let params = paramsById.get(effect);
  if (!params) {
    params = new Map(effect.params.map((param) => [param.id, param]));
    paramsById.set(effect, params);
  }
  return params.get(id);
}

const sharedByEffect = new WeakMap<Effect, Param[]>();

/** The parameters of an effect of which the whole bench has one value. */
export function sharedOf(effect: Effect): Param[] {
  const shared = sharedByEffect.get(effect) ?? effect.params.filter((param) => param.shared);
  sharedByEffect.set(effect, shared);
  return shared;
}

/** All parameters of an effect as they are shown: its own, then the mix. */
export function paramsOf(effect: Effect): Param[] {
  return [...effect.params, effect.mix];
}

const controls = new Map<string, Control>();

function remembered(key: string, make: () => Control): Control {
  const known = controls.get(key) ?? make();
  controls.set(key, known);
  return known;
}

export function effectControl(effect: string, param: string): Control {
  return remembered(`effect ${effect} ${param}`, () => Control.ofEffect(effect, param));
}

export function signalControl(kind: string, param: string): Control {
  return remembered(`signal ${kind} ${param}`, () => Control.ofSignal(kind, param));
}

/** A curve of a designed response. */
export function curveControl(curve: string): Control {
  return remembered(`curve ${curve}`, () => Control.ofDesign(curve, false));
}

/** What can be set of a reflection that is placed by hand. */
export function placedControl(param: string): Control {
  return remembered(`placed ${param}`, () => Control.ofDesign(param, true));
}

export function stripControl(param: "level_db" | "pan" | "send_db"): Control {
  return remembered(`strip ${param}`, () => Control.ofStrip(param));
}

export function earMapControl(): Control {
  return remembered("ear map", () => Control.ofEarMap());
}

/** What of an effect can be taken hold of in one of the ways that there are; none where it has nothing of the kind. */
export function holdOf<W extends Hold["what"]>(effect: Effect, what: W): Extract<Hold, { what: W }> | undefined {
  return effect.holds.find((hold): hold is Extract<Hold, { what: W }> => hold.what === what);
}

export type { Control };
