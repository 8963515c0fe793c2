/** The page's side of live sound: one audio context, one worklet, and what they are told. */
import type { Hear } from "../generated/types/Hear";
import type { Play } from "../generated/types/Play";
import type { Meters } from "../generated/types/Meters";
import type { Strip } from "../generated/types/Strip";
import { HEAR, metersOf, METERS, MOST_SHARED } from "../generated/live";
import { moduleBytes, RATE_HZ } from "../core/core";
import { noteFault } from "../core/happened";
import type { Ear } from "../measuring/measured";
import type { Channels, Feed } from "../measuring/messages";
import { type LaidSound, soundName } from "../measuring/sounds";
import { givenSounds, laneChanges, type Lanes, NO_LANES, samePlace, waiting } from "./lanes";
import type { BrokeLive, FromLive, LiveOptions, RefusedLive, Runs, ToLive } from "./worklet/messages";
import workletUrl from "./worklet/live.ts?worker&url";

type Listener = (meters: Meters) => void;
/** Takes all samples of left before, then right before, left after (as matched) and right after. */
type SeenListener = (samples: Float32Array) => void;

const STILL: Meters = metersOf(new Float32Array(METERS));

/** Samples of nothing. */
const NOTHING: Channels = [new Float32Array(0), new Float32Array(0)];

/** So many samples come to the audio thread in one message: a small part of the time of a block. */
const PIECE = 16_384;

/** A sound that breaks again so soon is not begun anew by itself. */
const BREAKS_APART_MS = 10_000;

function inPieces(channels: Float32Array[]): ToLive[] {
  if (channels.length === 0) return [];
  const pieces = channels.flatMap((samples, channel) =>
    Array.from({ length: Math.ceil(samples.length / PIECE) }, (_, i): ToLive => ({
      kind: "piece",
      channel,
      samples: samples.slice(i * PIECE, (i + 1) * PIECE),
    })),
  );
  return [{ kind: "room", frames: channels[0]?.length ?? 0, channels: channels.length }, ...pieces];
}

class Engine implements Ear {
  private context: AudioContext | null = null;
  private node: AudioWorkletNode | null = null;
  private starting: Promise<void> | null = null;
  /** Blocks that took longer than they last. */
  private late = 0;
  private listeners = new Set<Listener>();
  private readonly ending = new Set<() => void>();
  private readonly seeing = new Set<SeenListener>();
  /** What is to run, and what runs: a path whose response is not there yet waits, and what was heard before goes on. */
  private wantedLanes: Lanes = NO_LANES;
  private lanes: Lanes = NO_LANES;
  /** The numbers of the sounds for the present passage, by their names. */
  private readonly sounds = new Map<string, number>();
  /** The latest messages of everything that holds until the next of its name, in the order in which they are to be told. */
  private holding = new Map<string, ToLive[]>();
  private wanted = false;
  /** The frame of the display for which the listeners wait. */
  private frame: number | null = null;
  meters: Meters = STILL;
  private readonly resters = new Set<() => void>();
  /** What is to be said of a sound that has broken. */
  broke: string | null = null;
  private brokeAt = -Infinity;
  private readonly breakers = new Set<() => void>();
  /** Whether only what is heard runs, because this machine is too slow for everything. */
  resting = false;

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

  setSource(channels: Channels): void {
    // A new source comes with nothing beside it.
    this.holding.delete("backing");
    for (let number = 0; number < MOST_SHARED; number++) this.holding.delete(`feed ${number}`);
    this.sounds.forEach((number) => this.holding.delete(`sound ${number}`));
    this.sounds.clear();
    this.tell({ kind: "forget-sounds" });
    this.hold({ kind: "source" }, channels);
  }

  /** The sum of what plays beside the stem at work, and what the others send to the shared paths to which it sends as well. */
  setBacking(channels: Channels | null, feeds: Feed[]): void {
    this.hold({ kind: "backing" }, channels ?? NOTHING);
    for (let number = 0; number < MOST_SHARED; number++) {
      const feed = feeds.find((of) => of.number === number);
      this.hold({ kind: "feed", number }, feed?.channels ?? NOTHING, `feed ${number}`);
    }
  }

  setReference(channels: Channels | null, gainDb: number): void {
    this.hold({ kind: "reference", gainDb }, channels ?? NOTHING);
  }

  setHear(hear: Hear): void {
    this.hold({ kind: "hear", hear: HEAR[hear] });
  }

  setStems(all: boolean, strip: Strip): void {
    this.hold({ kind: "stems", all, levelDb: strip.level_db, pan: strip.pan });
  }

  setPlay(play: Play): void {
    this.hold({ kind: "once", once: play === "once" });
  }

  /** The samples of a sound that stages take. */
  setSound(sound: LaidSound): void {
    const name = soundName(sound);
    const number = this.sounds.get(name) ?? this.sounds.size;
    this.sounds.set(name, number);
    this.hold({ kind: "sound", number }, sound.channels, `sound ${number}`);
    givenSounds(this.lanes, this.sounds, (_, wanted) => wanted === name).forEach((message) => this.tell(message));
    this.run(waiting(this.wantedLanes, this.lanes, this.sounds));
  }

  setLanes(lanes: Lanes): void {
    this.wantedLanes = lanes;
    this.run(waiting(lanes, this.lanes, this.sounds));
  }

  /** All sounds that there are have been told: what still has none goes on without. */
  setPlaced(): void {
    this.run(this.wantedLanes);
  }

  /** Tells the audio thread what differs from the last lanes. */
  private run(lanes: Lanes): void {
    const last = this.lanes;
    if (lanes === last) return;
    this.lanes = lanes;
    if (this.node) this.changes(last).forEach((message) => this.tell(message));
  }

  /** Calls back with the samples that are playing, as {@link SeenListener} says; returns how to stop. */
  onSeen(listener: SeenListener): () => void {
    this.seeing.add(listener);
    this.hold({ kind: "see", on: true });
    return () => {
      this.seeing.delete(listener);
      this.hold({ kind: "see", on: this.seeing.size > 0 });
    };
  }

  /** The gain of the level match of what is heard, dB. */
  get matchDb(): number {
    return this.lanes.lanes[this.lanes.heard]?.matchDb ?? 0;
  }

  /** Calls back when what was played once has ended. */
  onEnded(listener: () => void): () => void {
    this.ending.add(listener);
    return () => this.ending.delete(listener);
  }

  /** Calls back when {@link resting} has changed. */
  onResting(listener: () => void): () => void {
    this.resters.add(listener);
    return () => this.resters.delete(listener);
  }

  onMeters(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** What leads from the last lanes to the present ones; a lane that is built anew needs its sounds anew. */
  private changes(last: Lanes): ToLive[] {
    const messages = laneChanges(last, this.lanes);
    const built = messages.flatMap((message) => (message.kind === "lane" ? [message.runs] : []));
    const isBuilt = (runs: Runs) => built.some((one) => samePlace(one, runs));
    return [...messages, ...givenSounds(this.lanes, this.sounds, isBuilt)];
  }

  /** Tells something that holds on, with the samples that it is about, and remembers it for an audio thread that starts later. */
  private hold(message: ToLive, samples: Float32Array[] = [], name: string = message.kind): void {
    const messages = [...inPieces(samples), message];
    this.holding.delete(name);
    this.holding.set(name, messages);
    messages.forEach((one) => this.tell(one));
  }

  private tell(message: ToLive): void {
    this.node?.port.postMessage(message);
  }

  private async start(): Promise<void> {
    const context = new AudioContext({ sampleRate: RATE_HZ, latencyHint: "interactive" });
    await context.audioWorklet.addModule(workletUrl);
    const first: ToLive[] = [...[...this.holding.values()].flat(), ...this.changes(NO_LANES)];
    const processorOptions: LiveOptions = { module: moduleBytes, first };
    const node = new AudioWorkletNode(context, "clear-bend-live", {
      numberOfInputs: 0,
      outputChannelCount: [2],
      processorOptions,
    });
    node.onprocessorerror = () => this.beginAnew("its processor stopped");
    node.port.onmessage = ({ data }: MessageEvent<FromLive | BrokeLive | RefusedLive>) => {
      // Messages of one that has been given up mean nothing any more.
      if (node !== this.node) return;
      if ("broke" in data) return this.beginAnew(data.broke);
      if ("refused" in data) return this.say(`The sound did not take a change (${data.refused}); your work is kept.`);
      if (data.seen) this.seeing.forEach((listener) => listener(data.seen as Float32Array));
      this.late = data.late;
      this.hear(metersOf(data.meters));
      if (data.resting !== this.resting) {
        this.resting = data.resting;
        this.resters.forEach((listener) => listener());
      }
    };
    node.connect(context.destination);
    this.context = context;
    this.node = node;
  }

  /** The audio thread has broken: another one is started with all that holds, but not over and over. */
  private beginAnew(why: string): void {
    const wanted = this.wanted;
    const soon = performance.now() - this.brokeAt < BREAKS_APART_MS;
    this.brokeAt = performance.now();
    void this.context?.close();
    this.context = this.node = this.starting = null;
    this.wanted = false;
    this.meters = STILL;
    this.listeners.forEach((listener) => listener(STILL));
    this.say(
      `The sound broke (${why}). ${soon ? "Undo what you did last, then play again" : "It was begun anew"}; your work is kept.`,
    );
    const ended = () => this.ending.forEach((listener) => listener());
    if (wanted && !soon) void this.play().catch(ended);
    else ended();
  }

  /** What a report of a fault says of the sound. */
  state(): string {
    if (!this.context) return "sound not started";
    const { sampleRate, baseLatency, state } = this.context;
    const seconds = (1000 * baseLatency).toFixed(1);
    return `sound ${state}, ${sampleRate} Hz, ${seconds} ms latency, ${this.late} late blocks${this.resting ? ", lanes rest" : ""}`;
  }

  /** Says what has gone wrong. */
  private say(sentence: string): void {
    noteFault(sentence);
    this.broke = sentence;
    this.breakers.forEach((listener) => listener());
  }

  /** Calls back when {@link broke} has changed. */
  onBroke(listener: () => void): () => void {
    this.breakers.add(listener);
    return () => this.breakers.delete(listener);
  }

  private hear(meters: Meters): void {
    if (this.wanted && this.meters.playing && !meters.playing) {
      this.wanted = false;
      this.ending.forEach((listener) => listener());
    }
    this.meters = meters;
    // The display shows them once a frame, however often they come.
    this.frame ??= requestAnimationFrame(() => {
      this.frame = null;
      this.listeners.forEach((listener) => listener(this.meters));
    });
  }
}

export const engine = new Engine();
