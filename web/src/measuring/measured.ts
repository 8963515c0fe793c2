/** What has been measured of the bench as it stands, as a small store fed by the worker. */
import { type Remote, wrap } from "comlink";
import { createContext, useContext } from "react";
import { create } from "zustand";

import type { Equal } from "../generated/types/Equal";
import type { Histogram } from "../generated/types/Histogram";
import type { LevelMatches } from "../generated/types/LevelMatches";
import type { PathDocument } from "../generated/types/PathDocument";
import type { ReferenceLevels } from "../generated/types/ReferenceLevels";
import type { Report } from "../generated/types/Report";
import type { Resonances } from "../generated/types/Resonances";
import type { SendsCompared } from "../generated/types/SendsCompared";
import type { SumLevels } from "../generated/types/SumLevels";
import { moduleBytes } from "../core/core";
import { sentenceOf } from "../core/faults";
import { noteFault } from "../core/happened";
import { type Bend, BendWorkers, type Fan } from "./bendWorkers";
import type {
  Answer,
  Calls,
  Channels,
  Feed,
  Picture,
  Request,
  Running,
  Shown,
  SourceOverview,
  ToWorker,
} from "./messages";
import type { LaidSound } from "./sounds";

export const bendKey = (stage: number, param: string) => `${stage} ${param}`;

interface Measured {
  overview: SourceOverview | null;
  picture: Picture | null;
  report: Report | null;
  shown: Shown | null;
  fan: Fan | null;
  /** The resonances of the passage, once they have been looked for. */
  resonances: Resonances | null;
  /** By stage and parameter, as {@link bendKey} says. */
  bends: Record<string, Bend>;
  /** The level matches of paths on the present passage, by their JSON. */
  matches: Record<string, LevelMatches>;
  /** How much of the time the passage spends at which level. */
  levels: Histogram | null;
  /** Levels of the sum of all stems, while it is wanted. */
  sum: SumLevels | null;
  /** Shared paths beside inserts, while that is wanted and something is sent. */
  compared: SendsCompared | null;
  reference: ReferenceLevels | null;
  /** Smallest and largest sample per column of the reference as it is heard. */
  referenceColumns: Channels | null;
  /** Its spectrum as it is heard, in the columns of spectra. */
  referenceSpectrum: Float32Array | null;
  /** How far a track has come in, 0 to 1. */
  loading: number | null;
  /** How far a path has been run that takes long. */
  running: Running | null;
  /** Tracks that stages take and that the server does not keep any more. */
  gone: string[];
  /** The share of a core that the stage in the picture takes, once it has been tried. */
  cost: number | null;
  /** The request that each of them answers; older than the newest request means: being worked on. */
  pictureId: number;
  shownId: number;
  reportId: number;
  asked: number;
  /** Why the bench cannot be measured. */
  refusal: string | null;
  /** What has broken and was begun anew; none once it has been read. */
  broke: string | null;
  /** What is shown beside, and the request that it answers. */
  beside: { id: number; picture: Picture; shown: Shown | null } | null;
}

/** Nothing has been measured of what is on the bench. */
const NOTHING: Omit<Measured, "asked" | "broke"> = {
  overview: null,
  picture: null,
  report: null,
  shown: null,
  fan: null,
  resonances: null,
  bends: {},
  matches: {},
  levels: null,
  sum: null,
  compared: null,
  reference: null,
  referenceColumns: null,
  referenceSpectrum: null,
  loading: null,
  running: null,
  gone: [],
  cost: null,
  pictureId: 0,
  shownId: 0,
  reportId: 0,
  refusal: null,
  beside: null,
};

const useAll = create<Measured>()(() => ({ ...NOTHING, asked: 0, broke: null }));

/** Whether a picture is the one beside: it then sees what has been measured of the other path. */
export const IsBeside = createContext(false);

/** The measured bench as the picture beside sees it. */
const theirs = (m: Measured): Measured =>
  m.beside
    ? {
        ...m,
        picture: m.beside.picture,
        shown: m.beside.shown,
        pictureId: m.beside.id,
        shownId: m.beside.id,
        fan: null,
        report: null,
      }
    : { ...m, picture: null, shown: null };

function useMeasuredPart<T>(part: (measured: Measured) => T): T {
  const beside = useContext(IsBeside);
  return useAll((m) => part(beside ? theirs(m) : m));
}

/** What has been measured: a part of it in a component, or all of it outside. */
export const useMeasured = Object.assign(useMeasuredPart, {
  getState: useAll.getState,
  setState: useAll.setState,
  subscribe: useAll.subscribe,
});

/** Whether numbers are being measured anew: an attribute of those that are on the screen, which dims them. */
export const useStale = () => useMeasuredPart((m) => (m.reportId === m.asked || m.refusal !== null ? undefined : true));

/** What the picture that is shown needs, if it is that picture's. */
export function useShown<P extends Shown["picture"]>(picture: P): Extract<Shown, { picture: P }> | null {
  return useMeasured((m) => (m.shown?.picture === picture ? (m.shown as Extract<Shown, { picture: P }>) : null));
}

/** What the ear gets from the worker. */
export interface Ear {
  setSource(channels: Channels): void;
  /** All sounds of the newest request have been told. */
  setPlaced(): void;
  setBacking(channels: Channels | null, feeds: Feed[]): void;
  setSound(sound: LaidSound): void;
  setReference(channels: Channels | null, gainDb: number): void;
}

let worker: Worker | null = null;
let bendWorkers: BendWorkers | null = null;
/** The newest request. */
let asked: Request | null = null;
/** The newest request whose picture has been seen on the screen. */
let drawn = 0;
let ear: Ear | null = null;
/** Fails when measuring breaks, so that nobody waits for an answer that cannot come. */
let broken: Promise<never> = new Promise(() => {});
let giveUp: (error: Error) => void = () => {};
/** The measuring worker where it is called and answers; errors come back as they were thrown. */
let calls: Remote<Calls> | null = null;

/** Starts the worker; the ear is given the samples that it plays. */
export function startMeasuring(listener: Ear): void {
  ear = listener;
  startWorkers();
}

function startWorkers(): void {
  worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = (event: MessageEvent<Answer>) => take(event.data);
  worker.onerror = (event) => beginAnew(event.message);
  const { port1, port2 } = new MessageChannel();
  calls = wrap<Calls>(port1);
  broken = new Promise((_, reject) => (giveUp = reject));
  // Nobody need be waiting.
  broken.catch(() => {});
  worker.postMessage({ kind: "module", bytes: moduleBytes, calls: port2 } satisfies ToWorker, [port2]);
  bendWorkers = new BendWorkers({ bend: takeBend, fan: takeFan, other: take, broke: beginAnew });
}

/** The request at which measuring broke last. */
let brokeAt = 0;

/** Measuring has broken: both workers begin anew, and what was asked last is asked again, but not what has broken it twice. */
function beginAnew(why: string): void {
  worker?.terminate();
  bendWorkers?.end();
  giveUp(new Error("measuring broke; it has been begun anew, try again"));
  startWorkers();
  const again = useMeasured.getState().asked !== brokeAt;
  const next = again
    ? "It was begun anew, and your work is kept."
    : "Undo what you did last, or choose another picture; your work is kept.";
  noteFault(`measuring broke: ${why}`);
  useMeasured.setState({ broke: `Measuring broke (${why}). ${next}`, loading: null, running: null });
  if (asked && again) {
    measure(asked);
    brokeAt = useMeasured.getState().asked;
  }
}

/** Asks for everything anew. */
export function measure(request: Omit<Request, "id">): void {
  const id = useMeasured.getState().asked + 1;
  // Nothing of another bench is ever shown.
  const before = asked?.opening === request.opening ? {} : NOTHING;
  useMeasured.setState({ ...before, asked: id, running: null, ...(request.fan ? {} : { fan: null }) });
  performance.clearMarks(`clear-bend asked ${id - 10}`);
  performance.mark(`clear-bend asked ${id}`);
  asked = { ...request, id };
  bendWorkers?.want(null);
  tell({ kind: "measure", request: asked });
}

/** Looks for the resonances of the passage. */
export async function findResonances(): Promise<void> {
  try {
    useMeasured.setState({ resonances: (await Promise.race([calls?.resonances(), broken])) ?? null });
  } catch (error) {
    useMeasured.setState({ refusal: sentenceOf(error) });
  }
}

/** What the worker answers to a call; a worker that breaks answers nothing. */
async function called<T>(ask: (worker: Remote<Calls>) => Promise<T>): Promise<T> {
  if (!calls) throw new Error("nothing has been measured yet");
  return await Promise.race([ask(calls), broken]);
}

/** The value of a parameter at which its outcome is that of the same stage of another path. */
export function findEqual(path: PathDocument, other: PathDocument, stage: number, param: string): Promise<Equal> {
  return called((worker) => worker.equal(path, other, stage, param));
}

/** The latest report as a table in CSV. */
export function reportCsv(): Promise<string> {
  return called((worker) => worker.reportCsv());
}

function tell(message: ToWorker): void {
  worker?.postMessage(message);
}

/** The bends and the fan of the newest request. */
function askBends({ id, opening, stems, work, stage, bends: params, fan, columns, picture, play }: Request): void {
  const path = stems[work]?.path;
  if (path) bendWorkers?.want({ id, opening, path, stage, params, fan, columns, picture, play });
}

function take(answer: Answer): void {
  if (answer.kind === "broke") return beginAnew(answer.sentence);
  // What was asked of another bench means nothing any more.
  if (answer.kind === "samples" || answer.opening !== asked?.opening) return;
  switch (answer.kind) {
    case "gone":
      if (answer.tracks.join() !== useMeasured.getState().gone.join()) useMeasured.setState({ gone: answer.tracks });
      break;
    case "loading":
      useMeasured.setState({ loading: answer.share });
      break;
    case "running":
      useMeasured.setState({ running: answer.running });
      break;
    case "passage":
      // Level matches belong to a passage.
      useMeasured.setState({ matches: {}, levels: answer.levels, resonances: null });
      ear?.setSource(answer.channels);
      bendWorkers?.tell({ kind: "passage", channels: answer.channels });
      break;
    case "placed":
      if (asked.id === answer.id) {
        ear?.setPlaced();
        askBends(asked);
      }
      break;
    case "overview":
      useMeasured.setState({ overview: answer.overview });
      break;
    case "picture":
      useMeasured.setState({ picture: answer.picture, pictureId: answer.id, refusal: null, running: null });
      break;
    case "report":
      useMeasured.setState({ report: answer.report, reportId: answer.id });
      break;
    case "cost":
      useMeasured.setState({ cost: answer.share });
      break;
    case "shown":
      useMeasured.setState({ shown: answer.shown, shownId: answer.id });
      note("clear-bend edit to shown", answer.id, answer.id);
      break;
    case "beside":
      useMeasured.setState({ beside: { id: answer.id, picture: answer.picture, shown: answer.shown } });
      break;
    case "sound":
      ear?.setSound(answer.sound);
      bendWorkers?.tell(answer);
      break;
    case "matches":
      useMeasured.setState(({ matches }) => ({ matches: latest({ ...matches, [answer.path]: answer.matches }) }));
      break;
    case "backing":
      ear?.setBacking(answer.channels, answer.feeds);
      break;
    case "compared":
      useMeasured.setState({ compared: answer.compared });
      break;
    case "sum":
      useMeasured.setState({ sum: answer.sum });
      break;
    case "reference":
      useMeasured.setState({ reference: answer.reference, referenceColumns: answer.columns });
      ear?.setReference(answer.channels, answer.reference?.match_gain_db ?? 0);
      break;
    case "reference-spectrum":
      useMeasured.setState({ referenceSpectrum: answer.levels });
      break;
    case "refused":
      ear?.setPlaced();
      noteFault(`refused: ${answer.sentence}`);
      useMeasured.setState({ refusal: answer.sentence, loading: null, running: null });
      break;
  }
}

function takeBend(stage: number, param: string, bend: Bend): void {
  useMeasured.setState(({ bends }) => ({ bends: { ...bends, [bendKey(stage, param)]: bend } }));
  note("clear-bend edit to bend", bend.id, param);
}

function takeFan(fan: Fan): void {
  // It may have been closed since.
  if (!asked?.fan) return;
  const matches = Object.fromEntries(fan.blades.map(({ row }) => [JSON.stringify(row.path), row.level_matches]));
  useMeasured.setState((m) => ({ fan, matches: { ...m.matches, ...matches } }));
  if (fan.blades.length === fan.count) note("clear-bend edit to fan", fan.id, fan.param);
}

/** Level matches are kept of so many paths: more than are heard side by side, or come back by a few undos. */
const MATCHES_KEPT = 200;

/** The entries that came last. */
function latest<T>(all: Record<string, T>): Record<string, T> {
  const entries = Object.entries(all);
  return entries.length > MATCHES_KEPT ? Object.fromEntries(entries.slice(-MATCHES_KEPT)) : all;
}

/** Notes that the picture of a request is on the screen: the time from the edit, for docs/performance.md. */
export function noteDrawn(id: number): void {
  if (id === drawn || id === 0) return;
  drawn = id;
  note("clear-bend edit to picture", id, id);
}

function note(what: string, id: number, detail: unknown): void {
  const start = `clear-bend asked ${id}`;
  if (performance.getEntriesByName(start).length > 0) performance.measure(what, { start, detail });
}
