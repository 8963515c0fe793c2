/** The core on the page: catalogue, controls, texts. Everything is asked of it; nothing is computed here. */
import init, {
  catalogueJson,
  checkBenchJson,
  Control,
  freshBenchJson,
  unitText,
} from "../generated/wasm/clear_bend_wasm.js";
import moduleUrl from "../generated/wasm/clear_bend_wasm_bg.wasm?url";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Catalogue } from "../generated/types/Catalogue";
import type { Effect } from "../generated/types/Effect";
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
  catalogue = JSON.parse(catalogueJson()) as Catalogue;
}

export function freshBench(): BenchDocument {
  return JSON.parse(freshBenchJson()) as BenchDocument;
}

/** The bench in the core's own spelling; throws the core's sentence if it is not one. */
export function checkedBench(document: unknown): BenchDocument {
  return JSON.parse(checkBenchJson(JSON.stringify(document))) as BenchDocument;
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

export function signalOf(kind: string): SignalKind {
  const signal = catalogue.signals.find((s) => s.id === kind);
  if (!signal) throw new Error(`The source ${kind} is not in the catalogue.`);
  return signal;
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

export type { Control };
