/** Changes to a bench, as pure functions: each takes a document and returns another one. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Listening } from "../generated/types/Listening";
import type { Param } from "../generated/types/Param";
import type { StageDocument } from "../generated/types/StageDocument";
import type { View } from "../generated/types/View";
import { fromFile, toFile } from "../core/numbers";

const MIX = "mix";

/** The value of a parameter, or of the mix, of a stage. */
export function valueOf(stage: StageDocument, param: Param): number {
  return param.id === MIX ? stage.mix : fromFile(stage.params[param.id], param.default);
}

export function withValue(stage: StageDocument, param: Param, value: number): StageDocument {
  if (param.id === MIX) return { ...stage, mix: value };
  return { ...stage, params: { ...stage.params, [param.id]: toFile(value) } };
}

export function withStage(
  bench: BenchDocument,
  index: number,
  change: (stage: StageDocument) => StageDocument,
): BenchDocument {
  const stages = bench.path.stages.map((stage, i) => (i === index ? change(stage) : stage));
  return { ...bench, path: { ...bench.path, stages } };
}

export function withListening(bench: BenchDocument, change: Partial<Listening>): BenchDocument {
  return { ...bench, listening: { ...bench.listening, ...change } };
}

export function withView(bench: BenchDocument, change: Partial<View>): BenchDocument {
  return { ...bench, view: { ...bench.view, ...change } };
}

/** Another kind of source, with its own default settings. */
export function withSource(bench: BenchDocument, kind: string): BenchDocument {
  return { ...bench, source: { kind, params: {} } };
}

export function withSourceValue(bench: BenchDocument, id: string, value: number): BenchDocument {
  const params = { ...bench.source.params, [id]: toFile(value) };
  return { ...bench, source: { ...bench.source, params } };
}
