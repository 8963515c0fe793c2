/** What the page says to the audio thread. Text crosses as bytes: there is no text decoder there. */
export type ToLive =
  | { kind: "source"; channels: Float32Array[] }
  | { kind: "backing"; channels: Float32Array[] }
  | { kind: "reference"; channels: Float32Array[]; gainDb: number }
  | { kind: "lane"; lane: number; json: Uint8Array }
  /** The sound of a slot of a stage, by its place. */
  | { kind: "sound"; lane: number; stage: number; slot: number; channels: Float32Array[] }
  | { kind: "keep-lanes"; count: number }
  | { kind: "heard"; lane: number }
  | { kind: "param"; lane: number; stage: number; param: number; value: number }
  | { kind: "mix"; lane: number; stage: number; mix: number; on: boolean }
  | { kind: "match"; lane: number; gainDb: number }
  | { kind: "hear"; hear: number }
  | { kind: "stems"; all: boolean; levelDb: number; pan: number }
  /** Whether the source is played once, with its tail, instead of going round. */
  | { kind: "once"; once: boolean }
  | { kind: "play"; playing: boolean }
  | { kind: "seek"; seconds: number }
  /** Whether what plays is to be seen. */
  | { kind: "see"; on: boolean };

/** What the audio thread says to the page. */
export interface FromLive {
  /** The core's `Meters`, in the order of the fields. */
  meters: Float32Array;
  /** All samples of left before since the last message, then right before, left after, right after; none if not asked. */
  seen: Float32Array | null;
}

/** What the audio thread is made with. */
export interface LiveOptions {
  module: ArrayBuffer;
  /** Messages to be taken before the first block. */
  first: ToLive[];
}
