/**
 * The measuring worker: renders the passage and reads it off. The newest request wins: between two parts of
 * an answer it looks whether a newer one has come. The picture comes first, then the numbers, and what is beside
 * the work. Bends and fans are measured by another worker, beside it (bendWorker.ts).
 */
import { expose } from "comlink";

import init, { designViewJson, MeasuringBench, renderSamples, roomBendPointJson, roomMeasuredJson } from "../generated/wasm/clear_bend_wasm.js";
import { isBroken, sentenceOf } from "../core/faults";
import { isMade } from "../core/made";
import type { DesignView } from "../generated/types/DesignView";
import type { Equal } from "../generated/types/Equal";
import type { LevelMatches } from "../generated/types/LevelMatches";
import type { ReferenceLevels } from "../generated/types/ReferenceLevels";
import type { Report } from "../generated/types/Report";
import type { Resonances } from "../generated/types/Resonances";
import type { RoomBendPoint } from "../generated/types/RoomBendPoint";
import type { RoomMeasured } from "../generated/types/RoomMeasured";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { SendsCompared } from "../generated/types/SendsCompared";
import type { SumLevels } from "../generated/types/SumLevels";
import { HIGHEST_HZ, LOWEST_HZ, SPECTRUM_COLUMNS } from "./frequencies";
import { type Answer, type BesidePath, type Calls, type Channels, type Feed, halves, type Picture, type Request, type ToWorker } from "./messages";
import { Newest, Overtaken, pause } from "./newest";
import { isShared, sendTo, sharedPlaces } from "./sent";
import { shown, standsAlone } from "./shown";
import { originOf, soundName, soundsOfPaths, type SoundWanted, throughOf, withStemsBefore } from "./sounds";
import { Gone, takeTrack } from "./tracks";

/** A request that is overtaken so soon came from a hand that moves. */
const SOON_MS = 60;

/** While a hand moves, so many times as long as a measurement took are left to it; more for a curve, which follows it by the formula. */
const LEFT_TO_HAND = 1;
const LEFT_TO_CURVE = 4;
/** While a sound is being drawn, it is heard anew so long after the last time, ms: the processor is needed for what is seen of it. */
const LEFT_TO_DRAWING_MS = 300;

/** A stage runs for so long to see what it costs, s of sound: long against the steps of the clock. */
const COST_S = 0.5;

let ready: Promise<unknown> | null = null;
let bench: MeasuringBench | null = null;

/** What stands on the bench, as text, so that nothing is made twice. */
const standing = { passage: "", compared: "", sounds: new Map<string, string>(), matched: new Map<string, LevelMatches>(), overview: "", backing: "", reference: "", referenceSpectrum: "", referenceDb: 0, drawn: "", before: new Float32Array(0) as Float32Array };

function answer(message: Answer, transfer: ArrayBufferLike[] = []): void {
  self.postMessage(message, { transfer: transfer as ArrayBuffer[] });
}

/** Tracks that were not kept any more when they were asked for, and when that was. */
const gone = new Map<string, number>();

/** They are asked for again after so long: the file may be brought meanwhile, ms. */
const ASKED_AGAIN_MS = 5000;

/** Brings the samples of all sources to the bench, and lets go of others. A stage whose sound is gone works without it. */
async function fetchSources(measuring: MeasuringBench, needed: SourceDocument[], sounds: SourceDocument[]): Promise<void> {
  const sources = [...needed, ...sounds];
  const texts = sources.map((source) => JSON.stringify(source));
  measuring.keepOnly(JSON.stringify(texts));
  let loading = false;
  for (const [i, source] of sources.entries()) {
    const text = texts[i] as string;
    if (measuring.has(text)) continue;
    if (source.track) {
      if (i >= needed.length && performance.now() - (gone.get(source.track) ?? -Infinity) < ASKED_AGAIN_MS) continue;
      loading = true;
      answer({ kind: "loading", share: 0 });
      try {
        await takeTrack(measuring, text, source.track, (share) => answer({ kind: "loading", share }));
        gone.delete(source.track);
      } catch (error) {
        if (i < needed.length || !(error instanceof Gone)) throw error;
        gone.set(source.track, performance.now());
      }
    } else {
      measuring.make(text);
    }
  }
  if (loading) answer({ kind: "loading", share: null });
  answer({ kind: "gone", tracks: sounds.flatMap(({ track }) => (track && gone.has(track) ? [track] : [])) });
}

/** Puts the passage on the bench; the ear and the overview get theirs. */
function place(measuring: MeasuringBench, request: Request, sounds: SoundWanted[]): void {
  const { stems, work, region, play, columns } = request;
  const at = stems[work];
  const sent = at !== undefined && isShared(at);
  // Of what is sent, all is shown of the first who sends.
  const senders = stems.filter((stem) => sendTo(stem, work));
  const source = JSON.stringify((sent ? (senders[0] ?? stems.find((stem) => !isShared(stem))) : at)?.source);
  const passage = `${source} ${JSON.stringify(region)} ${sent ? JSON.stringify([play, work, stems.map((stem) => (isShared(stem) ? "shared" : stem))]) : ""}`;
  const moved = standing.passage !== passage;
  measuring.play(JSON.stringify(play));
  if (moved) {
    if (sent) chooseSent(measuring, request, source, sounds);
    else measuring.choose(source, JSON.stringify(region));
    standing.passage = passage;
    standing.backing = standing.reference = standing.compared = "";
    standing.sounds.clear();
    const channels: Channels = [measuring.before(0), measuring.before(1)];
    answer({ kind: "passage", channels, levels: measuring.levelsJson() }, channels.map((c) => c.buffer));
  }
  const overview = `${source} ${columns}`;
  if (standing.overview !== overview) {
    standing.overview = overview;
    const both = measuring.sourceColumns(columns);
    const [min, max] = halves(both);
    answer({ kind: "overview", overview: { seconds: measuring.sourceSeconds(), onsets: measuring.sourceOnsets(), min, max } });
  }
}

/** All that plays together, as the core reads it. */
function deskOf({ stems, work, region, sendsAs }: Request): string {
  return JSON.stringify({ stems, work, region, sends_as: sendsAs });
}

/** Puts what is sent to the shared path at work on the bench. */
function chooseSent(measuring: MeasuringBench, request: Request, shown: string, sounds: SoundWanted[]): void {
  const desk = deskOf(request);
  measuring.beginSent(desk, shown);
  // Those who send need their sounds before the passage is there beside which they are told to others.
  for (const one of sounds) lay(measuring, one, request.stems);
  measuring.chooseSent(desk);
}

function picture(measuring: MeasuringBench, { pictured: stage, columns }: Request): Picture {
  const tailSeconds = measuring.tailSeconds;
  const before = `${standing.passage} ${tailSeconds} ${columns}`;
  if (standing.drawn !== before) {
    standing.drawn = before;
    standing.before = measuring.beforeColumns(columns);
  }
  const after = measuring.afterColumns(columns);
  const [beforeMin, beforeMax] = halves(standing.before);
  const [afterMin, afterMax] = halves(after);
  return { seconds: measuring.seconds + tailSeconds, tailSeconds, beforeMin, beforeMax, afterMin, afterMax, gainDb: measuring.gainColumns(stage, columns), key: halves(measuring.keyColumns(stage, columns)) };
}

/** What sounds that have been laid are made of. */
const madeOfSounds = (sounds: SoundWanted[]) => sounds.map((sound) => standing.sounds.get(soundName(sound)) ?? "");

/** Lays a sound beside the passage; says how many channels it has there. */
function lay(measuring: MeasuringBench, { effect, slot, sound }: SoundWanted, stems: Request["stems"]): number {
  const through = throughOf(sound, stems);
  return measuring.laySound(effect, slot, JSON.stringify(sound), JSON.stringify(originOf(sound, stems)), through && JSON.stringify(through));
}

/** Lays the sounds of some paths beside the passage; the ear and the bend worker get them too. Says whether any is drawn otherwise than before. */
function laySounds(measuring: MeasuringBench, wanted: SoundWanted[], { stems, play }: Request): boolean {
  let redrawn = false;
  for (const one of wanted) {
    const { effect, slot } = one;
    const [sound, origin] = [JSON.stringify(one.sound), JSON.stringify(originOf(one.sound, stems))];
    const through = throughOf(one.sound, stems);
    const path = through && JSON.stringify(through);
    const name = soundName(one);
    // What a path takes has been laid before, and may have become another sound under the same name.
    const taken = through ? madeOfSounds(soundsOfPaths([withStemsBefore(through)], stems)) : [];
    const madeOf = path ? [origin, play, path, ...taken].join(" ") : origin;
    if (standing.sounds.get(name) === madeOf) continue;
    const count = lay(measuring, one, stems);
    const channels = Array.from({ length: count }, (_, channel) => measuring.soundChannel(effect, slot, sound, channel));
    standing.sounds.set(name, madeOf);
    answer({ kind: "sound", sound: { ...one, channels } }, channels.map((c) => c.buffer));
    redrawn ||= isMade(one.sound);
  }
  return redrawn;
}

/** The other stems, the reference, the other snapshots. */
async function beside(measuring: MeasuringBench, request: Request): Promise<void> {
  const { stems, work, region, play, reference, allStems, others, how, picture } = request;
  const desk = deskOf(request);
  const at = stems[work];
  const backing = allStems ? JSON.stringify([stems.map(({ source }) => source), stems.filter((_, i) => i !== work), at?.strip.solo, at?.sends.map(({ to }) => to), work, region, play, request.sendsAs]) : "off";
  if (standing.backing !== backing) {
    await newest.breath();
    const channels = allStems ? halves(measuring.backing(desk)) : null;
    const places = sharedPlaces(stems);
    const feeds = allStems ? Array.from(measuring.feedPlaces(), (place): Feed => ({ number: places.indexOf(place), channels: halves(measuring.feed(place)) })) : [];
    standing.backing = backing;
    answer({ kind: "backing", channels, feeds }, [...(channels ?? []), ...feeds.flatMap((feed) => feed.channels)].map((c) => c.buffer));
  }
  if (allStems) {
    await newest.breath();
    answer({ kind: "sum", sum: JSON.parse(measuring.sumJson(desk)) as SumLevels });
  } else {
    answer({ kind: "sum", sum: null });
  }
  const wanted = `${JSON.stringify(reference)} ${request.columns} ${standing.passage}`;
  if (standing.reference !== wanted) {
    await newest.breath();
    standing.reference = wanted;
    if (reference) {
      const levels = JSON.parse(measuring.referenceJson(JSON.stringify(reference))) as ReferenceLevels;
      const channels: Channels = [measuring.reference(0), measuring.reference(1)];
      const columns = halves(measuring.referenceColumns(request.columns, levels.match_gain_db));
      standing.referenceDb = levels.match_gain_db;
      answer({ kind: "reference", reference: levels, channels, columns }, channels.map((c) => c.buffer));
    } else {
      answer({ kind: "reference", reference: null, channels: null, columns: null });
    }
  }
  // Only one picture shows it, and long references take a while.
  const analysing = JSON.stringify(how);
  const spectrum = reference && picture === "curve" ? `${wanted} ${analysing}` : "";
  if (standing.referenceSpectrum !== spectrum) {
    await newest.breath();
    standing.referenceSpectrum = spectrum;
    const levels = spectrum === "" ? null : measuring.referenceSpectrum(analysing, standing.referenceDb, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS);
    answer({ kind: "reference-spectrum", levels });
  }
  const { matched, passage } = standing;
  const wantedOf = new Set<string>();
  for (const other of others) {
    const path = JSON.stringify(other);
    const madeOf = [passage, play, path, ...madeOfSounds(soundsOfPaths([other], stems))].join(" ");
    wantedOf.add(madeOf);
    if (!matched.has(madeOf)) {
      await newest.breath();
      matched.set(madeOf, JSON.parse(measuring.matchesJson(path)) as LevelMatches);
    }
    const matches = matched.get(madeOf);
    if (matches) answer({ kind: "matches", path, matches });
  }
  const compared = allStems && request.comparing ? `${desk} ${play}` : "";
  if (standing.compared !== compared) {
    await newest.breath();
    standing.compared = compared;
    answer({ kind: "compared", compared: compared === "" ? null : (JSON.parse(measuring.comparedJson(desk)) as SendsCompared | null) });
  }
  for (const madeOf of matched.keys()) if (!wantedOf.has(madeOf)) matched.delete(madeOf);
}

/** What the picture of a request needs beside the passage drawn small. */
function show(measuring: MeasuringBench, request: Request, path: string): void {
  const { id, pictured, stems, work } = request;
  const more = pictured < (stems[work]?.path.stages.length ?? 0) ? shown(measuring, request, path) : null;
  if (more) answer({ kind: "shown", id, shown: more });
}

/** The picture of another path on the same passage. */
function showBeside(measuring: MeasuringBench, request: Request, { path, pictured }: BesidePath): void {
  const text = JSON.stringify(path);
  measuring.render(text);
  const theirs = { ...request, pictured };
  const drawn = picture(measuring, theirs);
  answer({ kind: "beside", id: request.id, picture: drawn, shown: pictured < path.stages.length ? shown(measuring, theirs, text) : null });
}

async function serve(request: Request): Promise<void> {
  const { id, pictured, stems, work, reference } = request;
  const measuring = (bench ??= new MeasuringBench());
  const at = stems[work];
  // What is sent to a shared path is made of the others.
  const all = request.allStems || (at !== undefined && isShared(at));
  const sources = (all ? stems : stems.slice(work, work + 1)).filter((stem) => !isShared(stem)).map((stem) => stem.source);
  if (reference) sources.push(reference);
  const against = request.other === null ? undefined : stems[request.other];
  if (against) sources.push(against.source);
  const played = [stems[work], against, ...(all ? stems : [])].flatMap((stem) => (stem ? [stem.path] : []));
  const wanted = soundsOfPaths([...played, ...request.others, ...(request.beside ? [request.beside.path] : [])], stems);
  await fetchSources(measuring, sources, wanted.map(({ sound }) => originOf(sound, stems)));
  const sounds = wanted.filter(({ sound }) => measuring.has(JSON.stringify(originOf(sound, stems))));
  newest.stopIfOvertaken();
  place(measuring, request, sounds);
  const stages = stems[work]?.path.stages ?? [];
  const path = JSON.stringify(stems[work]?.path);
  const redrawn = laySounds(measuring, sounds, request);
  answer({ kind: "placed", id });
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
  measuring.render(path);
  answer({ kind: "picture", id, picture: picture(measuring, request) });
  if (!alone) {
    await newest.breath();
    show(measuring, request, path);
  }
  await newest.breath();
  const report = JSON.parse(measuring.reportJson()) as Report;
  answer({ kind: "report", id, report });
  answer({ kind: "matches", path, matches: report.level_matches });
  if (request.beside) {
    await newest.breath();
    showBeside(measuring, request, request.beside);
    measuring.render(path);
  }
  await beside(measuring, request);
  if (pictured < stages.length) {
    await newest.breath();
    const start = performance.now();
    measuring.runStage(path, pictured, COST_S);
    answer({ kind: "cost", id, share: (performance.now() - start) / 1000 / COST_S });
  }
  // Who goes through the responses hears each of them at once.
  if (wanted.some(({ slot }) => slot === "response")) {
    do await newest.breath();
    while (measuring.makeAhead());
  }
}

const newest = new Newest<Request>(async (request) => {
  await ready;
  const start = performance.now();
  try {
    await serve(request);
  } catch (error) {
    if (isBroken(error)) return answer({ kind: "broke", sentence: sentenceOf(error) });
    if (!(error instanceof Overtaken)) return answer({ kind: "refused", id: request.id, sentence: sentenceOf(error) });
    // There may be no more processors than two.
    const took = performance.now() - start;
    if (took < SOON_MS) await pause(took * (request.picture === "curve" ? LEFT_TO_CURVE : LEFT_TO_HAND));
  }
});

async function samples(id: number, source: string, path: string): Promise<void> {
  await ready;
  const channels = halves(renderSamples(source, path));
  answer({ kind: "samples", id, channels }, channels.map((c) => c.buffer));
}

/** The bench once something has been measured on it. */
function measured(): MeasuringBench {
  if (!bench) throw new Error("nothing has been measured yet");
  return bench;
}

const calls: Calls = {
  reportCsv: () => measured().reportCsv(),
  equal: (path, other, stage, param) => JSON.parse(measured().equalJson(JSON.stringify(path), JSON.stringify(other), stage, param)) as Equal,
  resonances: () => JSON.parse(measured().resonancesJson()) as Resonances,
  design: (design, columns) => JSON.parse(designViewJson(JSON.stringify(design), columns)) as DesignView,
  room: (room) => JSON.parse(roomMeasuredJson(JSON.stringify(room))) as RoomMeasured,
  roomBend: (room, measure, place, of) => JSON.parse(roomBendPointJson(JSON.stringify(room), measure, place, of)) as RoomBendPoint,
};

// What nobody has caught would be silence.
self.addEventListener("unhandledrejection", ({ reason }) => answer({ kind: "broke", sentence: sentenceOf(reason) }));

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
      samples(data.id, JSON.stringify(data.source), JSON.stringify(data.path)).catch((error: unknown) =>
        answer(isBroken(error) ? { kind: "broke", sentence: sentenceOf(error) } : { kind: "refused", id: data.id, sentence: sentenceOf(error) }),
      );
      break;
  }
};
