/** A path that runs: in a lane, by its place, or as a shared one, by its number among those. */
export interface Runs {
  shared: boolean;
  number: number;
}

/** What the page says to the audio thread. Text crosses as bytes: there is no text decoder there. */
export type ToLive =
  /** Samples come in piece by piece, so that no message lasts long; what follows says what they are. */
  | { kind: "room"; frames: number; channels: number }
  | { kind: "piece"; channel: number; samples: Float32Array }
  | { kind: "source" }
  | { kind: "backing" }
  | { kind: "reference"; gainDb: number }
  /** A sound that stages take, by its number. */
  | { kind: "sound"; number: number }
  | { kind: "give"; sound: number; runs: Runs; stage: number; slot: number }
  | { kind: "forget-sounds" }
  | { kind: "lane"; runs: Runs; json: Uint8Array }
  | { kind: "keep-lanes"; count: number }
  | { kind: "heard"; lane: number }
  | { kind: "param"; runs: Runs; stage: number; param: number; value: number }
  | { kind: "mix"; runs: Runs; stage: number; mix: number; on: boolean }
  | { kind: "match"; lane: number; gainDb: number }
  | { kind: "hear"; hear: number }
  | { kind: "stems"; all: boolean; levelDb: number; pan: number }
  /** Whether the source is played once, with its tail, instead of going round. */
  | { kind: "once"; once: boolean }
  /** What the stem at work sends to a shared path, by its number, how what comes back from there sits in the sum, and what others send. */
  | { kind: "send"; number: number; sends: boolean; levelDb: number; beforeStrip: boolean }
  | { kind: "return"; number: number; heard: boolean; levelDb: number; pan: number }
  | { kind: "feed"; number: number }
  | { kind: "play"; playing: boolean }
  | { kind: "seek"; seconds: number }
  /** Whether what plays is to be seen. */
  | { kind: "see"; on: boolean };

/** What the audio thread says to the page when it cannot go on. */
export interface BrokeLive {
  broke: string;
}

/** What the audio thread says to the page when its core does not accept something: what that was. */
export interface RefusedLive {
  refused: ToLive["kind"];
}

/** What the audio thread says to the page while it plays. */
export interface FromLive {
  /** The core's `Meters`, as `metersOf` reads them. */
  meters: Float32Array;
  /** All samples of left before since the last message, then right before, left after, right after; none if not asked. */
  seen: Float32Array | null;
  /** Whether lanes that are not heard rest, because the machine is slow. */
  resting: boolean;
  /** Blocks so far that took longer than they last. */
  late: number;
}

/** What the audio thread is made with. */
export interface LiveOptions {
  module: ArrayBuffer;
  /** Messages to be taken before the first block. */
  first: ToLive[];
}
