/** What the page says to the audio thread. Text crosses as bytes: there is no text decoder there. */
export type ToLive =
  | { kind: "source"; channels: Float32Array[] }
  | { kind: "path"; json: Uint8Array }
  | { kind: "param"; stage: number; param: number; value: number }
  | { kind: "mix"; stage: number; mix: number; on: boolean }
  | { kind: "hear"; hear: number }
  | { kind: "match"; gainDb: number }
  | { kind: "play"; playing: boolean }
  | { kind: "seek"; seconds: number };

/** What the audio thread is made with. */
export interface LiveOptions {
  module: ArrayBuffer;
  /** Messages to be taken before the first block. */
  first: ToLive[];
}
