/** One way for data: the document goes to the audio thread and to the measuring worker; reports come back. */
import { engine } from "../audio/engine";
import { type Lane, type Lanes, NO_LANES, type SharedLane } from "../audio/lanes";
import { audible, effectOf, predictedMatch } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { MatchBy } from "../generated/types/MatchBy";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Picture } from "../generated/types/Picture";
import type { StageDocument } from "../generated/types/StageDocument";
import { measure, startMeasuring, useMeasured } from "../measuring/measured";
import type { Request } from "../measuring/messages";
import { isShared, sendTo, sharedPlaces } from "../measuring/sent";
import type { Stem } from "../generated/types/Stem";
import { useLooking } from "./analysing";
import { besideOf } from "./beside";
import { acts, pathOf, picturedStage, workOf } from "./edits";
import { useFanHeard } from "./fanHeard";
import { shownParams, useGroups } from "./groups";
import { overheardPath, useOverheard } from "./overheard";
import { useBench } from "./store";

/** So many snapshots run side by side; beyond them, one starts from rest when it is chosen. */
const WARM_SNAPSHOTS = 9;

let columns = 640;

/** Starts both sides and follows the document from now on. */
export function startWiring(): void {
  startMeasuring(engine);
  useBench.subscribe(() => follow());
  useGroups.subscribe(() => follow(true));
  useLooking.subscribe(() => follow(true));
  useBench.subscribe(listen);
  useMeasured.subscribe(listen);
  useFanHeard.subscribe(listen);
  useOverheard.subscribe(listen);
}

/** The width of the picture over time, in columns. */
export function setColumns(wanted: number): void {
  if (wanted !== columns && wanted > 0) {
    columns = wanted;
    follow();
  }
}

let lastFollowed: BenchDocument | null = null;
let lastColumns = 0;
let lastAsked = "";

/** Asks for everything that is to be measured, if anything of it has changed. */
function follow(anew = false): void {
  const { ready, history, opened } = useBench.getState();
  const { document } = history.present;
  if (!ready || (!anew && document === lastFollowed && columns === lastColumns)) return;
  lastFollowed = document;
  lastColumns = columns;
  const { view, listening, region, play, reference, work } = document;
  const path = pathOf(document);
  const stage = path.stages[view.stage];
  const params = stage ? bendable(stage, view.spotlight) : [];
  const pictured = picturedStage(view);
  const ofPicture = path.stages[pictured];
  const picture = shownPicture(view.picture, ofPicture ? effectOf(ofPicture).pictures : []);
  const looking = useLooking.getState();
  const beside = besideOf(document, looking.beside);
  const request: Omit<Request, "id"> = {
    opening: opened,
    stems: document.stems.map(({ source, snapshots, snapshot, strip, sends }) => ({
      source,
      path: snapshots[snapshot] as PathDocument,
      strip,
      sends: sends ?? [],
    })),
    work,
    region,
    play,
    reference,
    allStems: listening.all_stems && document.stems.length > 1,
    sendsAs: listening.sends_as,
    comparing: looking.comparing,
    stage: view.stage,
    pictured,
    columns,
    picture,
    bends: params.sort((a, b) => Number(b === view.spotlight) - Number(a === view.spotlight)),
    fan: view.spotlight && stage ? view.fan : null,
    how: looking.how,
    toneHz: looking.toneHz,
    bandHz: looking.bandHz,
    beside: beside && { path: beside.path, pictured: beside.pictured },
    other: picture === "parts" ? otherStem(document) : null,
    others: warm(document).filter((other) => other !== path),
  };
  const text = JSON.stringify(request);
  if (text === lastAsked) return;
  lastAsked = text;
  measure(request);
}

/** The stem that the one at work is held against: the chosen one, or the next; none where it is alone. */
function otherStem({ stems, work }: BenchDocument): number | null {
  const chosen = useLooking.getState().other;
  const others = stems.flatMap((stem, i) => (i === work || isShared(stem) ? [] : [i]));
  if (chosen !== null && others.includes(chosen)) return chosen;
  return others.find((i) => i > work) ?? others[0] ?? null;
}

/** The picture that is on the screen: the wanted one, or the first that the effect has. */
export function shownPicture(wanted: Picture, offered: Picture[]): Picture {
  return offered.includes(wanted) ? wanted : (offered[0] ?? "over-time");
}

/** The parameters that are shown and that do something as the switches stand. */
function bendable(stage: StageDocument, spotlight: string | null): string[] {
  const effect = effectOf(stage);
  return shownParams(effect, spotlight, useGroups.getState().chosen)
    .filter((param) => acts(stage, param))
    .map((param) => param.id);
}

/** The snapshots that run side by side: the first ones, and the one at work. */
function warm(document: BenchDocument): PathDocument[] {
  const { snapshots, snapshot } = workOf(document);
  const first = snapshots.slice(0, WARM_SNAPSHOTS);
  const chosen = snapshots[snapshot] as PathDocument;
  return first.includes(chosen) ? first : [...first.slice(0, -1), chosen];
}

/** What is to be heard: the document's listening, its snapshots, the values of an open fan, or a resonance alone. */
function listen(): void {
  const { ready, history } = useBench.getState();
  if (!ready) return;
  const { document } = history.present;
  // A fan that is closed is not heard any more.
  if (!document.view.fan && useFanHeard.getState().index !== null) useFanHeard.getState().choose(null);
  const overheard = overheardPath(document);
  const hear = overheard ? "after" : document.listening.hear;
  tellOnce("hear", hear, () => engine.setHear(hear));
  tellOnce("play", document.play, () => engine.setPlay(document.play));
  const { strip } = workOf(document);
  const all = document.listening.all_stems && document.stems.length > 1;
  tellOnce("stems", JSON.stringify([all, strip]), () => engine.setStems(all, strip));
  const lanes = lanesOf(document, overheard);
  tellOnce("lanes", lanes, () => engine.setLanes(lanes));
}

const told = new Map<string, unknown>();

function tellOnce(what: string, value: unknown, tell: () => void): void {
  if (told.get(what) === value) return;
  told.set(what, value);
  tell();
}

let lastLanes: Lanes = NO_LANES;
/** The path at work whose gain was measured last, and how it was matched: what holds while a new one is being measured starts from it. */
let known: { path: PathDocument; by: MatchBy; gainDb: number } | null = null;

/** The lanes as they should be: the same object as before where nothing has changed. */
function lanesOf(document: BenchDocument, overheard: PathDocument | null): Lanes {
  const { matches, levels, fan } = useMeasured.getState();
  const by = document.listening.level_match;
  const measured = (path: PathDocument) => (by === "off" ? 0 : matches[JSON.stringify(path)]?.[by].gain_db);
  const path = pathOf(document);
  const gainDb = measured(path);
  if (gainDb !== undefined) known = { path, by, gainDb };
  const gain = (path: PathDocument) => {
    const found = measured(path);
    if (found !== undefined || !known || known.by !== by) return found ?? 0;
    return levels === null ? known.gainDb : predictedMatch(known.path, known.gainDb, path, levels);
  };
  const fanHeard = useFanHeard.getState().index;
  const open = document.view.fan !== null && fan !== null;
  const own = open ? [path, ...fan.blades.map(({ row }) => row.path)] : warm(document);
  const paths = overheard ? [...own, overheard] : own;
  const heard = overheard
    ? own.length
    : open
      ? fanHeard !== null && fanHeard < fan.blades.length
        ? fanHeard + 1
        : 0
      : paths.indexOf(path);
  const lanes: Lane[] = paths.map((path, i) => {
    // A part alone is not matched.
    const matchDb = path === overheard ? 0 : gain(path);
    const last = lastLanes.lanes[i];
    return last && last.matchDb === matchDb && samePath(last.path, path) ? last : { path, matchDb };
  });
  const shared = sharedLanes(document);
  const same =
    heard === lastLanes.heard &&
    lanes.length === lastLanes.lanes.length &&
    lanes.every((lane, i) => lane === lastLanes.lanes[i]) &&
    shared.length === lastLanes.shared.length &&
    shared.every((lane, i) => lane === lastLanes.shared[i]);
  if (!same) lastLanes = { lanes, shared, heard };
  return lastLanes;
}

/** The shared paths as the stem at work sends to them. */
function sharedLanes({ stems, work }: BenchDocument): SharedLane[] {
  const places = sharedPlaces(stems);
  if (places.length === 0) return [];
  const heard = audible(stems.map((stem) => [stem.strip, isShared(stem)]));
  return places.map((place, number) => {
    const { snapshots, snapshot, strip } = stems[place] as Stem;
    const lane: SharedLane = {
      path: snapshots[snapshot] as PathDocument,
      send: sendTo(stems[work] as Stem, place),
      strip,
      heard: heard[place]?.heard ?? true,
    };
    const last = lastLanes.shared[number];
    const stays =
      last?.path === lane.path && last.send === lane.send && last.strip === strip && last.heard === lane.heard;
    return stays ? last : lane;
  });
}

function samePath(a: PathDocument, b: PathDocument): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}
