/**
 * A worker for what a parameter does over its range: measures its share of bends and fans on the passage that the measuring
 * worker has put up, beside it, as soon as the hand rests. The newest request wins.
 */
import init, { MeasuringBench, staticCurve } from "../generated/wasm/clear_bend_wasm.js";
import { isBroken, sentenceOf } from "../core/faults";
import type { FanDocument } from "../generated/types/FanDocument";
import { BendMeasuring, type BendSoFar, type Share, STEPS } from "./bend";
import { type BendAnswer, type BendsWanted, type Channels, halves, isRoomPicture, type ToBendWorker } from "./messages";
import { roomOf } from "./rooms";
import { Newest, Overtaken, pause } from "./newest";
import type { LaidSound } from "./sounds";

/** Bends and fans wait until the hand has rested for this long. */
const REST_MS = 40;

let ready: Promise<unknown> | null = null;
let bench: MeasuringBench | null = null;

let share: Share = { index: 0, of: 1 };

const answer = (message: BendAnswer) => self.postMessage(message);

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
  push(channels).putPassage();
}

function putSound({ effect, slot, sound, channels }: LaidSound): void {
  push(channels).endSound(effect, slot, sound);
}

/** Tells of the bend of a parameter as it is measured. */
async function measure(bends: AsyncGenerator<BendSoFar>, { id, stage }: BendsWanted, param: string): Promise<void> {
  for await (const bend of bends) answer({ kind: "bend", id, stage, param, bend });
}

/** Opens the fan of a parameter value by value, its share of them; each comes as soon as it is there. */
async function openFan(
  measuring: MeasuringBench,
  wanted: BendsWanted,
  param: string,
  { values, same }: FanDocument,
): Promise<void> {
  const { id, stage, columns } = wanted;
  if (!values) return;
  measuring.openFan(stage, param, values, same ?? undefined);
  for (let i = share.index; i < values.length; i += share.of) {
    await newest.breath();
    const row = measuring.fanRow(i);
    const { path } = row;
    const [afterMin, afterMax] = halves(measuring.fanColumns(columns));
    const curve = wanted.picture === "in-to-out" ? staticCurve(path, stage, 3) : [];
    const room = isRoomPicture(wanted.picture) ? roomOf(measuring, path, stage, wanted.picture) : null;
    const blade = {
      row,
      seconds: measuring.fanSeconds,
      afterMin,
      afterMax,
      gainDb: measuring.fanGainColumns(stage, columns),
      curve,
      room,
    };
    answer({ kind: "blade", id, param, count: values.length, at: i, blade });
  }
}

async function serve(wanted: BendsWanted): Promise<void> {
  const { path, play, stage, params, fan } = wanted;
  await pause(REST_MS);
  await newest.breath();
  const measuring = theBench();
  measuring.play(play);
  measuring.take(path);
  const bends = params.map((param) => ({
    param,
    bend: new BendMeasuring(measuring, stage, param, share, () => newest.breath()),
  }));
  const [first] = bends;
  if (fan && first) await openFan(measuring, wanted, first.param, fan);
  const others = bends.slice(1);
  if (first) {
    await first.bend.present();
    await measure(first.bend.firstSights(true), wanted, first.param);
  }
  // All of them stand on the very same passage, which is run once for it.
  for (const { bend } of others) await bend.present();
  for (const { param, bend } of others) await measure(bend.firstSights(false), wanted, param);
  for (const step of STEPS) {
    for (const { param, bend } of bends) await measure(bend.until(step), wanted, param);
  }
}

const newest = new Newest<BendsWanted>(async (wanted) => {
  try {
    await serve(wanted);
  } catch (error) {
    if (isBroken(error)) return answer({ kind: "broke", sentence: sentenceOf(error) });
    if (!(error instanceof Overtaken))
      answer({ kind: "refused", id: wanted.id, opening: wanted.opening, sentence: sentenceOf(error) });
  }
});

// What nobody has caught would be silence.
self.addEventListener("unhandledrejection", ({ reason }) => answer({ kind: "broke", sentence: sentenceOf(reason) }));

self.onmessage = ({ data }: MessageEvent<ToBendWorker>) => {
  switch (data.kind) {
    case "module":
      share = data.share;
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
