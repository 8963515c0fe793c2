/** The page's side of live sound: one audio context, one worklet, and what they are told. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Meters } from "../generated/types/Meters";
import type { StageDocument } from "../generated/types/StageDocument";
import { effectOf, moduleBytes, paramsOf } from "../core/core";
import { valueOf } from "../bench/edits";
import type { LiveOptions, ToLive } from "./worklet/messages";
import workletUrl from "./worklet/live.ts?worker&url";

/** The rate at which benches run, Hz. */
const RATE_HZ = 48_000;

type Listener = (meters: Meters) => void;

const HEAR = { before: 0, after: 1, difference: 2 } as const;

const STILL: Meters = {
  position_s: 0,
  playing: false,
  before_peak: 0,
  after_peak: 0,
  before_rms: 0,
  after_rms: 0,
  gain_db: 0,
  heard_peak: 0,
};

class Engine {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private starting: Promise<void> | null = null;
  private listeners = new Set<Listener>();
  private source: Float32Array[] | null = null;
  private document: BenchDocument | null = null;
  private matchDb = 0;
  private wanted = false;
  meters: Meters = STILL;

  /** Plays, from a click or a key: browsers allow sound only then. */
  async play(): Promise<void> {
    this.wanted = true;
    this.starting ??= this.start();
    try {
      await this.starting;
    } catch (error) {
      this.starting = null;
      this.wanted = false;
      throw error;
    }
    await this.context?.resume();
    this.tell({ kind: "play", playing: this.wanted });
  }

  pause(): void {
    this.wanted = false;
    this.tell({ kind: "play", playing: false });
  }

  seek(seconds: number): void {
    this.tell({ kind: "seek", seconds });
  }

  setSource(channels: Float32Array[]): void {
    this.source = channels;
    this.tell({ kind: "source", channels });
  }

  /** Tells the audio thread what differs from the last document: values one by one, another path whole. */
  setDocument(document: BenchDocument): void {
    const last = this.document;
    this.document = document;
    if (this.node) changes(last, document).forEach((message) => this.tell(message));
  }

  setMatchDb(gainDb: number): void {
    this.matchDb = gainDb;
    this.tell({ kind: "match", gainDb });
  }

  onMeters(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  private tell(message: ToLive): void {
    this.node?.port.postMessage(message);
  }

  private async start(): Promise<void> {
    const context = new AudioContext({ sampleRate: RATE_HZ, latencyHint: "interactive" });
    await context.audioWorklet.addModule(workletUrl);
    const first: ToLive[] = [{ kind: "match", gainDb: this.matchDb }];
    if (this.source) first.push({ kind: "source", channels: this.source });
    if (this.document) first.push(...changes(null, this.document));
    const processorOptions: LiveOptions = { module: moduleBytes, first };
    const node = new AudioWorkletNode(context, "clear-bend-live", {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions,
    });
    node.port.onmessage = (event: MessageEvent<Float32Array>) => this.hear(event.data);
    node.connect(context.destination);
    this.context = context;
    this.node = node;
  }

  /** In the order of the fields of the core's `Meters`. */
  private hear(numbers: Float32Array): void {
    const at = (i: number) => numbers[i] ?? 0;
    this.meters = {
      position_s: at(0),
      playing: at(1) > 0,
      before_peak: at(2),
      after_peak: at(3),
      before_rms: at(4),
      after_rms: at(5),
      gain_db: at(6),
      heard_peak: at(7),
    };
    this.listeners.forEach((listener) => listener(this.meters));
  }
}

/** The messages that lead from one document to another. */
function changes(last: BenchDocument | null, next: BenchDocument): ToLive[] {
  const messages: ToLive[] = [];
  const before = last?.path.stages ?? [];
  const after = next.path.stages;
  const sameStages = last && before.length === after.length && after.every((stage, i) => sameShape(before[i], stage));
  if (!sameStages) {
    messages.push({ kind: "path", json: new TextEncoder().encode(JSON.stringify(next.path)) });
  } else {
    after.forEach((stage, i) => messages.push(...stageChanges(i, before[i] ?? stage, stage)));
  }
  if (last?.listening.hear !== next.listening.hear) {
    messages.push({ kind: "hear", hear: HEAR[next.listening.hear] });
  }
  return messages;
}

function sameShape(a: StageDocument | undefined, b: StageDocument): boolean {
  return a?.effect === b.effect && a.scope === b.scope;
}

function stageChanges(index: number, before: StageDocument, after: StageDocument): ToLive[] {
  if (before === after) return [];
  const messages: ToLive[] = [];
  if (before.mix !== after.mix || before.on !== after.on) {
    messages.push({ kind: "mix", stage: index, mix: after.mix, on: after.on });
  }
  const effect = effectOf(after);
  paramsOf(effect)
    .slice(0, effect.params.length)
    .forEach((param, place) => {
      const value = valueOf(after, param);
      if (value !== valueOf(before, param)) messages.push({ kind: "param", stage: index, param: place, value });
    });
  return messages;
}

export const engine = new Engine();
