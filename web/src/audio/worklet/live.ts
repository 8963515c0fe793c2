/** The audio thread: hands blocks and messages to the live part of the core, and meters back. */
import { type Accepted, LIVE_CONTRACT, type LiveExports, METERS } from "../../generated/live";
import { Load } from "./load";
import type { BrokeLive, FromLive, LiveOptions, RefusedLive, Runs, ToLive } from "./messages";

const BLOCK = 128;
/** Meters go back every so many blocks: about 60 times a second at 48 kHz. */
const BLOCKS_PER_METER = 6;
/** Left and right, before and after. */
const SEEN = 4;

/** A path that runs, as the core is told. */
const path = ({ shared, number }: Runs): [shared: number, number: number] => [shared ? 1 : 0, number];

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
    this.unlessBroken(() => {
      // This file and the module may have been made from different states of the program.
      if (this.core.live_contract() >>> 0 !== LIVE_CONTRACT)
        throw new Error("the page and its sound are of different versions; load it anew");
      if (this.core.live_new(sampleRate, BLOCK) === 0) throw new Error(`a sound at ${sampleRate} Hz`);
      options.processorOptions.first.forEach((message) => this.take(message));
    });
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
    if (this.taken(message) === 0) this.port.postMessage({ refused: message.kind } satisfies RefusedLive);
  }

  /** Hands a message to the core, which says of some whether it accepts them. */
  private taken(message: ToLive): Accepted | void {
    const core = this.core;
    switch (message.kind) {
      case "room":
        return core.live_room(message.frames, message.channels);
      case "piece":
        this.write(Float32Array, core.live_piece_room(message.samples.length), message.samples);
        return core.live_piece_ready(message.channel);
      case "source":
        return core.live_source_ready();
      case "backing":
        return core.live_backing_ready();
      case "reference":
        return core.live_reference_ready(message.gainDb);
      case "lane":
        this.write(Uint8Array, core.live_text_room(message.json.length), message.json);
        return core.live_lane_ready(...path(message.runs));
      case "sound":
        return core.live_sound_ready(message.number);
      case "give":
        return core.live_give_sound(message.sound, ...path(message.runs), message.stage, message.slot);
      case "forget-sounds":
        return core.live_forget_sounds();
      case "keep-lanes":
        core.live_keep_lanes(message.count);
        // With fewer of them, all may run again.
        return this.rest(false);
      case "heard":
        return core.live_set_heard(message.lane);
      case "param":
        return core.live_set_param(...path(message.runs), message.stage, message.param, message.value);
      case "mix":
        return core.live_set_mix(...path(message.runs), message.stage, message.mix, message.on ? 1 : 0);
      case "match":
        return core.live_set_match_gain_db(message.lane, message.gainDb);
      case "hear":
        return core.live_set_hear(message.hear);
      case "stems":
        return core.live_set_stems(message.all ? 1 : 0, message.levelDb, message.pan);
      case "send":
        return core.live_set_send(message.number, message.sends ? 1 : 0, message.levelDb, message.beforeStrip ? 1 : 0);
      case "return":
        return core.live_set_return(message.number, message.heard ? 1 : 0, message.levelDb, message.pan);
      case "feed":
        return core.live_feed_ready(message.number);
      case "once":
        return core.live_set_once(message.once ? 1 : 0);
      case "play":
        return core.live_set_playing(message.playing ? 1 : 0);
      case "see":
        this.seen = message.on ? new Float32Array(SEEN * BLOCKS_PER_METER * BLOCK) : null;
        return;
      case "seek":
        return core.live_seek(message.seconds);
    }
  }

  /** Views of the core's output; made anew when its memory has grown. */
  private views(): [Float32Array, Float32Array] {
    if (this.output[0].buffer !== this.core.memory.buffer) {
      const view = (channel: number) =>
        new Float32Array(this.core.memory.buffer, this.core.live_output(channel), BLOCK);
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
  private write<T extends Float32Array | Uint8Array>(
    View: new (buffer: ArrayBuffer, address: number, length: number) => T,
    address: number,
    from: T,
  ): void {
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
      const message: FromLive = {
        meters,
        seen: meters[1] ? this.seen : null,
        resting: this.resting,
        late: this.load.late,
      };
      this.port.postMessage(message);
    }
  }
}

registerProcessor("clear-bend-live", LiveProcessor);
