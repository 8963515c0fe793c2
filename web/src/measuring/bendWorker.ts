/**
 * The worker for what a parameter does over its range: measures bends and opens fans on the passage that the measuring
 * worker has put up, beside it, as soon as the hand rests. The newest request wins.
 */
import init, { MeasuringBench, staticCurveJson } from "../generated/wasm/clear_bend_wasm.js";
import { isBroken, sentenceOf } from "../core/faults";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { FanDocument } from "../generated/types/FanDocument";
import type { FanRow } from "../generated/types/FanRow";
import { BendMeasuring, type BendSoFar } from "./bend";
import { type Answer, type BendsWanted, type Channels, type FanBlade, halves, isRoomPicture, type ToBendWorker } from "./messages";
import { roomOf } from "./rooms";
import { Newest, Overtaken, pause } from "./newest";
import type { LaidSound } from "./sounds";

/** Bends and fans wait until the hand has rested for this long. */
const REST_MS = 40;

/** What the passage is called on this bench, which has no other source. */
const PASSAGE = JSON.stringify("passage");

let ready: Promise<unknown> | null = null;
let bench: MeasuringBench | null = null;

const answer = (message: Answer) => self.postMessage(message);

const theBench = () => (bench ??= new MeasuringBench());

/** Hands samples to the bench. */
function push(channels: Float32Array[]): MeasuringBench {
  const frames = channels[0]?.length ?? 0;
  const piece = new Float32Array(frames * channels.length);
  channels.forEach((channel, i) => piece.set(channel, i * frames));
  const measuring = theBench();
  measuring.beginTrack(frames, channels.length);
  measuring.push(piece);
  return measuring;
}

function putPassage(channels: Channels): void {
  const measuring = push(channels);
  measuring.endTrack(PASSAGE);
  // Sounds are laid beside a passage.
  measuring.choose(PASSAGE, "null");
}

function putSound({ effect, slot, sound, channels }: LaidSound): void {
  push(channels).endSound(effect, slot, JSON.stringify(sound));
}

/** Measures the bend of a parameter: the whole range at first sight, or all points. */
async function measure(bends: AsyncGenerator<BendSoFar>, { id, stage }: BendsWanted, param: string): Promise<void> {
  for await (const bend of bends) answer({ kind: "bend", id, stage, param, bend });
}

/** Opens the fan of a parameter value by value; each comes as soon as it is there. */
async function openFan(measuring: MeasuringBench, wanted: BendsWanted, param: string, { values: given, count, same }: FanDocument): Promise<void> {
  const { id, stage, columns } = wanted;
  const values = JSON.parse(measuring.openFan(stage, param, JSON.stringify(given), count, same ?? undefined)) as unknown[];
  const blades: FanBlade[] = [];
  for (let i = 0; i < values.length; i++) {
    await newest.breath();
    const row = JSON.parse(measuring.fanRowJson(i)) as FanRow;
    const path = JSON.stringify(row.path);
    const [afterMin, afterMax] = halves(measuring.fanColumns(columns));
    const curve = wanted.picture === "in-to-out" ? (JSON.parse(staticCurveJson(path, stage, 3)) as CurvePoint[]) : [];
    const room = isRoomPicture(wanted.picture) ? roomOf(path, stage, wanted.picture) : null;
    blades.push({ row, seconds: measuring.fanSeconds, afterMin, afterMax, gainDb: measuring.fanGainColumns(stage, columns), curve, room });
    answer({ kind: "fan", id, param, count: values.length, blades: [...blades] });
  }
}

async function serve(wanted: BendsWanted): Promise<void> {
  const { path, play, stage, params, fan } = wanted;
  await pause(REST_MS);
  await newest.breath();
  const measuring = theBench();
  measuring.play(JSON.stringify(play));
  measuring.take(JSON.stringify(path));
  const bends = params.map((param) => ({ param, bend: new BendMeasuring(measuring, stage, param, () => newest.breath()) }));
  const [first] = bends;
  if (fan && first) {
    // Values are proposed where the bend turns.
    if (!fan.values) {
      await measure(first.bend.firstSights(), wanted, first.param);
      await measure(first.bend.whole(), wanted, first.param);
      bends.shift();
    }
    await openFan(measuring, wanted, first.param, fan);
  }
  for (const { param, bend } of bends) await measure(bend.firstSights(), wanted, param);
  for (const { param, bend } of bends) await measure(bend.whole(), wanted, param);
}

const newest = new Newest<BendsWanted>(async (wanted) => {
  try {
    await serve(wanted);
  } catch (error) {
    if (isBroken(error)) return answer({ kind: "broke", sentence: sentenceOf(error) });
    if (!(error instanceof Overtaken)) answer({ kind: "refused", id: wanted.id, sentence: sentenceOf(error) });
  }
});

// What nobody has caught would be silence.
self.addEventListener("unhandledrejection", ({ reason }) => answer({ kind: "broke", sentence: sentenceOf(reason) }));

self.onmessage = ({ data }: MessageEvent<ToBendWorker>) => {
  switch (data.kind) {
    case "module":
      ready = init({ module_or_path: data.bytes });
      break;
    case "passage":
      void ready?.then(() => putPassage(data.channels));
      break;
    case "sound":
      void ready?.then(() => putSound(data.sound));
      break;
    case "bends":
      void ready?.then(() => newest.put(data.wanted));
      break;
  }
};
