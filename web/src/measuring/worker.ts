/**
 * The measuring worker: renders the passage and reads it off. The newest request wins: between two parts of
 * an answer it looks whether a newer one has come. The picture comes first, then the numbers, and what is beside
 * the work. Bends and fans are measured by another worker, beside it (bendWorker.ts).
 */
import { expose } from "comlink";

import init, {
  designView,
  MeasuringBench,
  renderSamples,
  roomBendPoint,
  roomMeasured,
} from "../generated/wasm/clear_bend_wasm.js";
import { isBroken, sentenceOf } from "../core/faults";
import { isMade } from "../core/made";
import type { LevelMatches } from "../generated/types/LevelMatches";
import type { PathDocument } from "../generated/types/PathDocument";
import type { PlayedDesk } from "../generated/types/PlayedDesk";
import type { SourceDocument } from "../generated/types/SourceDocument";
import {
  backingKey,
  comparedKey,
  isSentAtWork,
  isWanted,
  Kept,
  matchesKey,
  overviewKey,
  passageKey,
  referenceKey,
  referenceSpectrumKey,
  shownSource,
  soundKey,
} from "./depends";
import { HIGHEST_HZ, LOWEST_HZ, SPECTRUM_COLUMNS } from "./frequencies";
import {
  type Answer,
  type AnswerTo,
  type BesidePath,
  type Calls,
  type Channels,
  type Feed,
  halves,
  type Picture,
  type Request,
  type ToWorker,
} from "./messages";
import { Newest, Overtaken, pause } from "./newest";
import { isShared, sharedPlaces } from "./sent";
import { shown, standsAlone } from "./shown";
import { originOf, soundName, soundsOfPaths, type SoundWanted, throughOf } from "./sounds";
import { Gone, takeTrack } from "./tracks";

/** A request that is overtaken so soon came from a hand that moves. */
const SOON_MS = 60;

/** While a hand moves, so many times as long as a measurement took are left to it; more for a curve, which follows it by the formula. */
const LEFT_TO_HAND = 1;
const LEFT_TO_CURVE = 4;
/** While a sound is being drawn, it is heard anew so long after the last time, ms: the processor is needed for what is seen of it. */
const LEFT_TO_DRAWING_MS = 300;

/** Stages that take longer than this together are followed by a look for something newer; a path that takes longer tells how far it is, ms. */
const BREATH_MS = 50;
const TOLD_MS = 800;

/** A stage runs for so long to see what it costs, s of sound: long against the steps of the clock. */
const COST_S = 0.5;

let ready: Promise<unknown> | null = null;
let bench: MeasuringBench | null = null;

/** What has been made and told, by what it was made of. */
const kept = new Kept();
/** What stands on the bench: the passage, how often one has been put there, the sounds beside it, the level matches of paths. */
const standing = {
  passage: "",
  placed: 0,
  laid: new Map<string, string>(),
  matched: new Map<string, LevelMatches>(),
  referenceDb: 0,
  before: new Float32Array(0) as Float32Array,
};

function tell(message: Answer, transfer: ArrayBufferLike[] = []): void {
  self.postMessage(message, { transfer: transfer as ArrayBuffer[] });
}

/** Answers a request, by its number and that of its opening. */
function answer({ opening, id }: Request, message: AnswerTo, transfer: ArrayBufferLike[] = []): void {
  tell({ opening, id, ...message }, transfer);
}

const buffers = (channels: Float32Array[]) => channels.map(({ buffer }) => buffer);

/** Tracks that were not kept any more when they were asked for, and when that was. */
const gone = new Map<string, number>();

/** They are asked for again after so long: the file may be brought meanwhile, ms. */
const ASKED_AGAIN_MS = 5000;

/** Brings the samples of all sources to the bench, and lets go of others. A stage whose sound is gone works without it. */
async function fetchSources(
  measuring: MeasuringBench,
  request: Request,
  needed: SourceDocument[],
  sounds: SourceDocument[],
): Promise<void> {
  const sources = [...needed, ...sounds];
  measuring.keepOnly(sources);
  let loading = false;
  for (const [i, source] of sources.entries()) {
    if (measuring.has(source)) continue;
    if (source.track) {
      if (i >= needed.length && performance.now() - (gone.get(source.track) ?? -Infinity) < ASKED_AGAIN_MS) continue;
      loading = true;
      answer(request, { kind: "loading", share: 0 });
      try {
        await takeTrack(measuring, source, source.track, (share) => answer(request, { kind: "loading", share }));
        gone.delete(source.track);
      } catch (error) {
        if (i < needed.length || !(error instanceof Gone)) throw error;
        gone.set(source.track, performance.now());
      }
    } else {
      measuring.make(source);
    }
  }
  if (loading) answer(request, { kind: "loading", share: null });
  answer(request, { kind: "gone", tracks: sounds.flatMap(({ track }) => (track && gone.has(track) ? [track] : [])) });
}

/** Puts the passage on the bench; the ear and the overview get theirs. */
async function place(measuring: MeasuringBench, request: Request, sounds: SoundWanted[]): Promise<void> {
  const source = shownSource(request);
  if (!source) return;
  measuring.play(request.play);
  const passage = passageKey(request);
  await kept.make("passage", passage, () => {
    // What is beside a passage goes with it.
    standing.laid.clear();
    standing.matched.clear();
    if (isSentAtWork(request)) chooseSent(measuring, request, source, sounds);
    else measuring.choose(source, request.region);
    // The same passage put there again has nothing beside it either.
    standing.passage = `${++standing.placed} ${passage}`;
    const channels: Channels = [measuring.before(0), measuring.before(1)];
    answer(request, { kind: "passage", channels, levels: measuring.levels() }, buffers(channels));
  });
  await kept.make("overview", overviewKey(request), () => {
    const [min, max] = halves(measuring.sourceColumns(request.columns));
    answer(request, {
      kind: "overview",
      overview: { seconds: measuring.sourceSeconds(), onsets: measuring.sourceOnsets(), min, max },
    });
  });
}

/** All that plays together. */
const deskOf = ({ stems, work, region, sendsAs }: Request): PlayedDesk => ({ stems, work, region, sends_as: sendsAs });

/** Puts what is sent to the shared path at work on the bench. */
function chooseSent(measuring: MeasuringBench, request: Request, shown: SourceDocument, sounds: SoundWanted[]): void {
  const desk = deskOf(request);
  measuring.beginSent(desk, shown);
  // Those who send need their sounds before the passage is there beside which they are told to others.
  for (const one of sounds) lay(measuring, one, request.stems);
  measuring.chooseSent(desk);
}

async function picture(measuring: MeasuringBench, { pictured: stage, columns }: Request): Promise<Picture> {
  const tailSeconds = measuring.tailSeconds;
  await kept.make("before", JSON.stringify([standing.passage, tailSeconds, columns]), () => {
    standing.before = measuring.beforeColumns(columns);
  });
  const [beforeMin, beforeMax] = halves(standing.before);
  const [afterMin, afterMax] = halves(measuring.afterColumns(columns));
  return {
    seconds: measuring.seconds + tailSeconds,
    tailSeconds,
    beforeMin,
    beforeMax,
    afterMin,
    afterMax,
    gainDb: measuring.gainColumns(stage, columns),
    key: halves(measuring.keyColumns(stage, columns)),
  };
}

/** Lays a sound beside the passage; says how many channels it has there. */
function lay(measuring: MeasuringBench, { effect, slot, sound }: SoundWanted, stems: Request["stems"]): number {
  return measuring.laySound(effect, slot, sound, originOf(sound, stems), throughOf(sound, stems));
}

/** Lays the sounds of some paths beside the passage; the ear and the bend worker get them too. Says whether any is drawn otherwise than before. */
function laySounds(measuring: MeasuringBench, wanted: SoundWanted[], request: Request): boolean {
  const { laid } = standing;
  let redrawn = false;
  for (const one of wanted) {
    const [name, key] = [soundName(one), soundKey(one, request, laid)];
    if (laid.get(name) === key) continue;
    laid.delete(name);
    const count = lay(measuring, one, request.stems);
    const channels = Array.from({ length: count }, (_, channel) =>
      measuring.soundChannel(one.effect, one.slot, one.sound, channel),
    );
    laid.set(name, key);
    answer(request, { kind: "sound", sound: { ...one, channels } }, buffers(channels));
    redrawn ||= isMade(one.sound);
  }
  return redrawn;
}

/** The other stems, the reference, the other snapshots. */
async function beside(measuring: MeasuringBench, request: Request): Promise<void> {
  const { stems, reference, allStems, others, how, columns } = request;
  const { passage, laid } = standing;
  const desk = deskOf(request);
  await kept.make("backing", backingKey(request, passage, laid), async () => {
    await newest.breath();
    const channels = allStems ? halves(measuring.backing(desk)) : null;
    const places = sharedPlaces(stems);
    const feeds = allStems
      ? Array.from(measuring.feedPlaces(), (place): Feed => ({
          number: places.indexOf(place),
          channels: halves(measuring.feed(place)),
        }))
      : [];
    answer(
      request,
      { kind: "backing", channels, feeds },
      buffers([...(channels ?? []), ...feeds.flatMap((feed) => feed.channels)]),
    );
  });
  if (allStems) await newest.breath();
  answer(request, { kind: "sum", sum: allStems ? measuring.sum(desk) : null });
  await kept.make("reference", referenceKey(request, passage), async () => {
    await newest.breath();
    if (!reference) return answer(request, { kind: "reference", reference: null, channels: null, columns: null });
    const levels = measuring.setReference(reference);
    standing.referenceDb = levels.match_gain_db;
    const channels: Channels = [measuring.reference(0), measuring.reference(1)];
    answer(
      request,
      {
        kind: "reference",
        reference: levels,
        channels,
        columns: halves(measuring.referenceColumns(columns, levels.match_gain_db)),
      },
      buffers(channels),
    );
  });
  // Long references take a while.
  const spectrum = referenceSpectrumKey(request, passage);
  await kept.make("reference-spectrum", spectrum, async () => {
    await newest.breath();
    const levels = isWanted(spectrum)
      ? measuring.referenceSpectrum(how, standing.referenceDb, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS)
      : null;
    answer(request, { kind: "reference-spectrum", levels });
  });
  await matchOthers(measuring, request, others);
  const compared = comparedKey(request, passage, laid);
  await kept.make("compared", compared, async () => {
    await newest.breath();
    answer(request, { kind: "compared", compared: isWanted(compared) ? measuring.compared(desk) : null });
  });
}

/** The level matches of other snapshots. */
async function matchOthers(measuring: MeasuringBench, request: Request, others: PathDocument[]): Promise<void> {
  const { matched, passage, laid } = standing;
  const wanted = new Set<string>();
  for (const other of others) {
    const key = matchesKey(other, request, passage, laid);
    wanted.add(key);
    if (!matched.has(key)) await newest.breath();
    const matches = matched.get(key) ?? measuring.matches(other);
    matched.set(key, matches);
    answer(request, { kind: "matches", path: JSON.stringify(other), matches });
  }
  for (const key of matched.keys()) if (!wanted.has(key)) matched.delete(key);
}

/** What the picture of a request needs beside the passage drawn small. */
function show(measuring: MeasuringBench, request: Request, path: PathDocument): void {
  const more = request.pictured < path.stages.length ? shown(measuring, request, path) : null;
  if (more) answer(request, { kind: "shown", shown: more });
}

/** The picture of another path on the same passage. */
async function showBeside(measuring: MeasuringBench, request: Request, { path, pictured }: BesidePath): Promise<void> {
  measuring.render(path);
  const theirs = { ...request, pictured };
  const drawn = await picture(measuring, theirs);
  answer(request, {
    kind: "beside",
    picture: drawn,
    shown: pictured < path.stages.length ? shown(measuring, theirs, path) : null,
  });
}

/** Runs a path over the passage stage by stage, so that something newer is heard of soon, and tells how far it is where that takes long. */
async function run(measuring: MeasuringBench, request: Request, path: PathDocument): Promise<void> {
  const start = performance.now();
  let breathed = start;
  measuring.begin(path);
  for (let left = measuring.advance(); left > 0; left = measuring.advance()) {
    const now = performance.now();
    if (now - breathed < BREATH_MS) continue;
    if (now - start > TOLD_MS) answer(request, { kind: "running", running: { left, of: path.stages.length } });
    await newest.breath();
    breathed = performance.now();
  }
}

async function serve(request: Request): Promise<void> {
  const { pictured, stems, work, reference } = request;
  const measuring = (bench ??= new MeasuringBench());
  const path = stems[work]?.path;
  if (!path) return;
  // What is sent to a shared path is made of the others.
  const all = request.allStems || isSentAtWork(request);
  const sources = (all ? stems : stems.slice(work, work + 1))
    .filter((stem) => !isShared(stem))
    .map((stem) => stem.source);
  if (reference) sources.push(reference);
  const against = request.other === null ? undefined : stems[request.other];
  if (against) sources.push(against.source);
  const played = [stems[work], against, ...(all ? stems : [])].flatMap((stem) => (stem ? [stem.path] : []));
  const wanted = soundsOfPaths([...played, ...request.others, ...(request.beside ? [request.beside.path] : [])], stems);
  await fetchSources(
    measuring,
    request,
    sources,
    wanted.map(({ sound }) => originOf(sound, stems)),
  );
  const sounds = wanted.filter(({ sound }) => measuring.has(originOf(sound, stems)));
  newest.stopIfOvertaken();
  await place(measuring, request, sounds);
  const redrawn = laySounds(measuring, sounds, request);
  answer(request, { kind: "placed" });
  // A hand that draws a sound looks at that, which another worker follows; it is heard, and measured once the hand rests.
  if (redrawn) {
    await newest.breath().catch(async (overtaken: unknown) => {
      await pause(LEFT_TO_DRAWING_MS);
      throw overtaken;
    });
  }
  // What the passage has no part in is there before it has been run.
  const alone = standsAlone(request.picture);
  if (alone) {
    await newest.breath();
    show(measuring, request, path);
    await newest.breath();
  }
  await run(measuring, request, path);
  answer(request, { kind: "picture", picture: await picture(measuring, request) });
  if (!alone) {
    await newest.breath();
    show(measuring, request, path);
  }
  await newest.breath();
  const report = measuring.report();
  answer(request, { kind: "report", report });
  answer(request, { kind: "matches", path: JSON.stringify(path), matches: report.level_matches });
  if (request.beside) {
    await newest.breath();
    await showBeside(measuring, request, request.beside);
    measuring.render(path);
  }
  await beside(measuring, request);
  if (pictured < path.stages.length) {
    await newest.breath();
    const start = performance.now();
    measuring.runStage(path, pictured, COST_S);
    answer(request, { kind: "cost", share: (performance.now() - start) / 1000 / COST_S });
  }
  // Who goes through the responses hears each of them at once.
  do await newest.breath();
  while (measuring.makeAhead());
}

const newest = new Newest<Request>(async (request) => {
  await ready;
  const start = performance.now();
  try {
    await serve(request);
  } catch (error) {
    if (isBroken(error)) return tell({ kind: "broke", sentence: sentenceOf(error) });
    if (!(error instanceof Overtaken)) return answer(request, { kind: "refused", sentence: sentenceOf(error) });
    // There may be no more processors than two.
    const took = performance.now() - start;
    if (took < SOON_MS) await pause(took * (request.picture === "curve" ? LEFT_TO_CURVE : LEFT_TO_HAND));
  }
});

async function samples(id: number, source: SourceDocument, path: PathDocument): Promise<void> {
  await ready;
  const channels = halves(renderSamples(source, path));
  tell({ kind: "samples", id, channels }, buffers(channels));
}

/** The bench once something has been measured on it. */
function measured(): MeasuringBench {
  if (!bench) throw new Error("nothing has been measured yet");
  return bench;
}

const calls: Calls = {
  reportCsv: () => measured().reportCsv(),
  equal: (path, other, stage, param) => measured().equal(path, other, stage, param),
  resonances: () => measured().resonances(),
  design: designView,
  room: roomMeasured,
  roomBend: roomBendPoint,
};

// What nobody has caught would be silence.
self.addEventListener("unhandledrejection", ({ reason }) => tell({ kind: "broke", sentence: sentenceOf(reason) }));

self.onmessage = ({ data }: MessageEvent<ToWorker>) => {
  switch (data.kind) {
    case "module":
      ready = init({ module_or_path: data.bytes });
      // Questions wait on their port until then; a module that does not come is said by what is measured.
      if (data.calls) ready.then(() => data.calls && expose(calls, data.calls)).catch(() => {});
      break;
    case "measure":
      newest.put(data.request);
      break;
    case "samples":
      samples(data.id, data.source, data.path).catch((error: unknown) =>
        tell(
          isBroken(error)
            ? { kind: "broke", sentence: sentenceOf(error) }
            : { kind: "refused", id: data.id, opening: 0, sentence: sentenceOf(error) },
        ),
      );
      break;
  }
};
