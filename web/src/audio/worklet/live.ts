/** The audio thread: hands blocks and messages to the live part of the core, and meters back. */
import { Load } from "./load";
import type { BrokeLive, FromLive, LiveOptions, ToLive } from "./messages";

/** The plain exports of crates/wasm/src/live.rs. */
interface LiveExports {
  memory: WebAssembly.Memory;
  live_new(rateHz: number, maxBlock: number): number;
  live_output(channel: number): number;
  live_room(frames: number, channels: number): void;
  live_piece_room(frames: number): number;
  live_piece_ready(channel: number): void;
  live_source_ready(): number;
  live_backing_ready(): number;
  live_reference_ready(gainDb: number): number;
  live_text_room(bytes: number): number;
  live_lane_ready(lane: number): number;
  live_sound_ready(number: number): void;
  live_give_sound(number: number, lane: number, stage: number, slot: number): void;
  live_forget_sounds(): void;
  live_keep_lanes(count: number): void;
  live_set_resting(rests: number): void;
  live_set_heard(lane: number): void;
  live_set_param(lane: number, stage: number, param: number, value: number): number;
  live_set_mix(lane: number, stage: number, mix: number, on: number): number;
  live_set_hear(hear: number): void;
  live_set_match_gain_db(lane: number, gainDb: number): void;
  live_set_stems(all: number, levelDb: number, pan: number): void;
  live_set_send(number: number, sends: number, levelDb: number, beforeStrip: number): void;
  live_set_return(number: number, heard: number, levelDb: number, pan: number): void;
  live_feed_ready(number: number): number;
  live_set_once(once: number): void;
  live_set_playing(playing: number): void;
  live_seek(seconds: number): void;
  live_process(frames: number): void;
  live_meters(): number;
  live_seen(channel: number): number;
}

const BLOCK = 128;
/** Meters go back every so many blocks: about 60 times a second at 48 kHz. */
const BLOCKS_PER_METER = 6;
const METERS = 8;
/** Left and right, before and after. */
const SEEN = 4;

/** The module also serves pages, through glue that is never called here. */
function withoutGlue(module: WebAssembly.Module): WebAssembly.Imports {
  const imports: Record<string, Record<string, () => void>> = {};
  for (const { module: from, name } of WebAssembly.Module.imports(module)) {
    (imports[from] ??= {})[name] = () => {};
  }
  return imports;
}

class LiveProcessor extends AudioWorkletProcessor {
  private readonly core: LiveExports;
  private output: [Float32Array, Float32Array] = [new Float32Array(0), new Float32Array(0)];
  private blocks = 0;
  private seen: Float32Array | null = null;
  private readonly load = new Load();
  /** Whether lanes that are not heard rest, because the machine is slow. */
  private resting = false;
  private broken = false;

  constructor(options: { processorOptions: LiveOptions }) {
    super();
    const module = new WebAssembly.Module(options.processorOptions.module);
    const instance = new WebAssembly.Instance(module, withoutGlue(module));
    this.core = instance.exports as unknown as LiveExports;
    this.core.live_new(sampleRate, BLOCK);
    options.processorOptions.first.forEach((message) => this.take(message));
    this.port.onmessage = (event: MessageEvent<ToLive>) => this.unlessBroken(() => this.take(event.data));
  }

  /** A module that has trapped is not called again: the page is told, and starts another one. */
  private unlessBroken(work: () => void): void {
    if (this.broken) return;
    try {
      work();
    } catch (error) {
      this.broken = true;
      this.port.postMessage({ broke: String(error) } satisfies BrokeLive);
    }
  }

  private take(message: ToLive): void {
    const core = this.core;
    switch (message.kind) {
      case "room":
        core.live_room(message.frames, message.channels);
        break;
      case "piece":
        this.write(Float32Array, core.live_piece_room(message.samples.length), message.samples);
        core.live_piece_ready(message.channel);
        break;
      case "source":
        core.live_source_ready();
        break;
      case "backing":
        core.live_backing_ready();
        break;
      case "reference":
        core.live_reference_ready(message.gainDb);
        break;
      case "lane":
        this.write(Uint8Array, core.live_text_room(message.json.length), message.json);
        core.live_lane_ready(message.lane);
        break;
      case "sound":
        core.live_sound_ready(message.number);
        break;
      case "give":
        core.live_give_sound(message.number, message.lane, message.stage, message.slot);
        break;
      case "forget-sounds":
        core.live_forget_sounds();
        break;
      case "keep-lanes":
        core.live_keep_lanes(message.count);
        // With fewer of them, all may run again.
        this.rest(false);
        break;
      case "heard":
        core.live_set_heard(message.lane);
        break;
      case "param":
        core.live_set_param(message.lane, message.stage, message.param, message.value);
        break;
      case "mix":
        core.live_set_mix(message.lane, message.stage, message.mix, message.on ? 1 : 0);
        break;
      case "match":
        core.live_set_match_gain_db(message.lane, message.gainDb);
        break;
      case "hear":
        core.live_set_hear(message.hear);
        break;
      case "stems":
        core.live_set_stems(message.all ? 1 : 0, message.levelDb, message.pan);
        break;
      case "send":
        core.live_set_send(message.number, message.sends ? 1 : 0, message.levelDb, message.beforeStrip ? 1 : 0);
        break;
      case "return":
        core.live_set_return(message.number, message.heard ? 1 : 0, message.levelDb, message.pan);
        break;
      case "feed":
        core.live_feed_ready(message.number);
        break;
      case "once":
        core.live_set_once(message.once ? 1 : 0);
        break;
      case "play":
        core.live_set_playing(message.playing ? 1 : 0);
        break;
      case "see":
        this.seen = message.on ? new Float32Array(SEEN * BLOCKS_PER_METER * BLOCK) : null;
        break;
      case "seek":
        core.live_seek(message.seconds);
        break;
    }
  }

  /** Views of the core's output; made anew when its memory has grown. */
  private views(): [Float32Array, Float32Array] {
    if (this.output[0].buffer !== this.core.memory.buffer) {
      const view = (channel: number) => new Float32Array(this.core.memory.buffer, this.core.live_output(channel), BLOCK);
      this.output = [view(0), view(1)];
    }
    return this.output;
  }

  /** Keeps the block before and after, for those who look at what plays. */
  private see(frames: number): void {
    if (!this.seen) return;
    const at = (this.blocks % BLOCKS_PER_METER) * BLOCK;
    for (let channel = 0; channel < SEEN; channel++) {
      const block = new Float32Array(this.core.memory.buffer, this.core.live_seen(channel), frames);
      this.seen.set(block, channel * BLOCKS_PER_METER * BLOCK + at);
    }
  }

  /** Writes to an address, which is asked for before: that may let the memory grow, and its buffer be another one. */
  private write<T extends Float32Array | Uint8Array>(View: new (buffer: ArrayBuffer, address: number, length: number) => T, address: number, from: T): void {
    new View(this.core.memory.buffer, address, from.length).set(from);
  }

  /** Lets the lanes that are not heard rest, or run again. */
  private rest(resting: boolean): void {
    this.resting = resting;
    this.core.live_set_resting(resting ? 1 : 0);
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0] ?? [];
    if (left) this.unlessBroken(() => this.play(left, right));
    return !this.broken;
  }

  private play(left: Float32Array, right: Float32Array | undefined): void {
    const frames = Math.min(left.length, BLOCK);
    const start = Date.now();
    this.core.live_process(frames);
    if (this.load.isTooMuch(Date.now() - start, (1000 * frames) / sampleRate) && !this.resting) this.rest(true);
    const [fromLeft, fromRight] = this.views();
    left.set(fromLeft.subarray(0, frames));
    right?.set(fromRight.subarray(0, frames));
    this.see(frames);
    if (++this.blocks % BLOCKS_PER_METER === 0) {
      const meters = new Float32Array(this.core.memory.buffer, this.core.live_meters(), METERS).slice();
      const message: FromLive = { meters, seen: meters[1] ? this.seen : null, resting: this.resting };
      this.port.postMessage(message);
    }
  }
}

registerProcessor("clear-bend-live", LiveProcessor);
