/**
 * The worker for bends: measures them on the passage that the measuring worker has put up, beside it, as soon as the hand
 * rests. The newest request wins.
 */
import init, { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";
import { sentenceOf } from "../core/faults";
import { BendMeasuring } from "./bend";
import type { Answer, BendsWanted, Channels, ToBendWorker } from "./messages";
import { Newest, Overtaken, pause } from "./newest";

/** Bends wait until the hand has rested for this long. */
const REST_MS = 40;

/** What the passage is called on this bench, which has no other source but keys. */
const PASSAGE = JSON.stringify("passage");

let ready: Promise<unknown> | null = null;
let bench: MeasuringBench | null = null;

const answer = (message: Answer) => self.postMessage(message);

function put(name: string, channels: Float32Array[]): void {
  const measuring = (bench ??= new MeasuringBench());
  measuring.beginTrack(channels[0]?.length ?? 0, channels.length);
  const [left, right] = channels;
  if (!left) return;
  const piece = new Float32Array(left.length * channels.length);
  piece.set(left);
  if (right) piece.set(right, left.length);
  measuring.push(piece);
  measuring.endTrack(name);
}

function putPassage(channels: Channels): void {
  put(PASSAGE, channels);
  // Keys are cut to a passage.
  bench?.keepOnly(JSON.stringify([PASSAGE]));
  bench?.choose(PASSAGE, "null");
}

const newest = new Newest<BendsWanted>(async ({ id, path, stage, params }) => {
  await pause(REST_MS);
  try {
    await newest.breath();
    const measuring = (bench ??= new MeasuringBench());
    measuring.take(JSON.stringify(path));
    const bends = params.map((param) => ({ param, bend: new BendMeasuring(measuring, stage, param, () => newest.breath()) }));
    for (const { param, bend } of bends) {
      for await (const points of bend.firstSights()) answer({ kind: "bend", id, stage, param, points });
    }
    for (const { param, bend } of bends) {
      for await (const points of bend.whole()) answer({ kind: "bend", id, stage, param, points });
    }
  } catch (error) {
    if (!(error instanceof Overtaken)) answer({ kind: "refused", id, sentence: sentenceOf(error) });
  }
});

self.onmessage = ({ data }: MessageEvent<ToBendWorker>) => {
  switch (data.kind) {
    case "module":
      ready = init({ module_or_path: data.bytes });
      break;
    case "passage":
      void ready?.then(() => putPassage(data.channels));
      break;
    case "key":
      void ready?.then(() => put(data.source, [data.samples]));
      break;
    case "bends":
      void ready?.then(() => newest.put(data.wanted));
      break;
  }
};
