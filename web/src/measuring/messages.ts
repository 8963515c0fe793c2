/** What the page and the measuring worker say to each other. */
import type { BendPoint } from "../generated/types/BendPoint";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Report } from "../generated/types/Report";
import type { SourceDocument } from "../generated/types/SourceDocument";

export interface Request {
  id: number;
  source: SourceDocument;
  path: PathDocument;
  /** The stage whose gain and curve are wanted. */
  stage: number;
  /** Columns of the picture over time. */
  columns: number;
  /** The parameters whose bends are wanted, the most wanted first. */
  bends: string[];
  /** Whether the picture of input against output is shown. */
  curve: boolean;
}

/** The passage drawn small. */
export interface Picture {
  seconds: number;
  beforeMin: Float32Array;
  beforeMax: Float32Array;
  afterMin: Float32Array;
  afterMax: Float32Array;
  /** Deepest gain per column, dB; empty where the stage reports none. */
  gainDb: Float32Array;
}

export type Answer =
  | { kind: "source"; channels: Float32Array[] }
  | { kind: "picture"; id: number; picture: Picture }
  | { kind: "report"; id: number; report: Report }
  | { kind: "curve"; id: number; points: CurvePoint[] }
  | { kind: "bend"; id: number; stage: number; param: string; points: BendPoint[] }
  | { kind: "samples"; id: number; channels: Float32Array[] }
  | { kind: "refused"; id: number; sentence: string };

export type ToWorker =
  | { kind: "module"; bytes: ArrayBuffer }
  | { kind: "measure"; request: Request }
  /** Asks for the samples after a path, as they are exported: not matched, not limited. */
  | { kind: "samples"; id: number; source: SourceDocument; path: PathDocument };
