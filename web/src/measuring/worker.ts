/**
 * The measuring worker: renders the passage and reads it off. The newest request wins: between two parts of
 * an answer it looks whether a newer one has come. The picture comes first, then the numbers.
 */
import init, { MeasuringBench, renderSamples, staticCurveJson } from "../generated/wasm/clear_bend_wasm.js";
import { sentenceOf } from "../core/faults";
import type { BendPoint } from "../generated/types/BendPoint";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { Report } from "../generated/types/Report";
import type { Answer, Picture, Request, ToWorker } from "./messages";

/** Bends wait until the hand has rested for this long. */
const REST_BEFORE_BENDS_MS = 20;

let ready: Promise<unknown> | null = null;
let newest: Request | null = null;
let working = false;
let bench: { source: string; measuring: MeasuringBench; columns: number; before: Float32Array } | null = null;

function answer(message: Answer, transfer: ArrayBufferLike[] = []): void {
  self.postMessage(message, { transfer: transfer as ArrayBuffer[] });
}

/** Lets messages that have come in meanwhile be heard. */
const breath = () =>
  new Promise<void>((resolve) => {
    const channel = new MessageChannel();
    channel.port1.onmessage = () => resolve();
    channel.port2.postMessage(null);
  });

function benchFor(request: Request): NonNullable<typeof bench> {
  const source = JSON.stringify(request.source);
  if (bench?.source !== source) {
    bench?.measuring.free();
    bench = null;
    const measuring = new MeasuringBench(source);
    bench = { source, measuring, columns: 0, before: new Float32Array(0) };
    const channels = [measuring.before(0), measuring.before(1)];
    answer({ kind: "source", channels }, channels.map((c) => c.buffer));
  }
  if (bench.columns !== request.columns) {
    bench.before = bench.measuring.beforeColumns(request.columns);
    bench.columns = request.columns;
  }
  return bench;
}

function picture({ measuring, before }: NonNullable<typeof bench>, { stage, columns }: Request): Picture {
  const after = measuring.afterColumns(columns);
  return {
    seconds: measuring.seconds,
    beforeMin: before.slice(0, columns),
    beforeMax: before.slice(columns),
    afterMin: after.slice(0, columns),
    afterMax: after.slice(columns),
    gainDb: measuring.gainColumns(stage, columns),
  };
}

/** Measures bends one by one, unless the hand moves on. */
async function bends(measuring: MeasuringBench, { id, stage, bends }: Request): Promise<void> {
  await new Promise((resolve) => setTimeout(resolve, REST_BEFORE_BENDS_MS));
  for (const param of bends) {
    const points: BendPoint[] = [];
    for (let i = 0; i < MeasuringBench.bendPoints(); i++) {
      await breath();
      if (newest) return;
      points.push(JSON.parse(measuring.bendPointJson(stage, param, i)) as BendPoint);
    }
    answer({ kind: "bend", id, stage, param, points });
  }
}

async function work(): Promise<void> {
  working = true;
  await ready;
  while (newest) {
    const request: Request = newest;
    const { id, stage } = request;
    const path = JSON.stringify(request.path);
    newest = null;
    try {
      const present = benchFor(request);
      present.measuring.render(path);
      answer({ kind: "picture", id, picture: picture(present, request) });
      if (request.curve && request.path.stages.length > 0) {
        await breath();
        if (newest) continue;
        answer({ kind: "curve", id, points: JSON.parse(staticCurveJson(path, stage, 1)) as CurvePoint[] });
      }
      await breath();
      if (newest) continue;
      answer({ kind: "report", id, report: JSON.parse(present.measuring.reportJson()) as Report });
      await bends(present.measuring, request);
    } catch (error) {
      answer({ kind: "refused", id, sentence: sentenceOf(error) });
    }
    await breath();
  }
  working = false;
}

async function samples(id: number, source: string, path: string): Promise<void> {
  await ready;
  const both = renderSamples(source, path);
  const channels = [both.slice(0, both.length / 2), both.slice(both.length / 2)];
  answer({ kind: "samples", id, channels }, channels.map((c) => c.buffer));
}

self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  switch (data.kind) {
    case "module":
      ready = init({ module_or_path: data.bytes });
      break;
    case "measure":
      newest = data.request;
      if (!working) void work();
      break;
    case "samples":
      samples(data.id, JSON.stringify(data.source), JSON.stringify(data.path)).catch((error: unknown) =>
        answer({ kind: "refused", id: data.id, sentence: sentenceOf(error) }),
      );
      break;
  }
};
