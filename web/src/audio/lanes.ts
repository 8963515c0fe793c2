/** The paths that run side by side in the audio thread, and the messages that lead from one set to another. */
import type { PathDocument } from "../generated/types/PathDocument";
import type { StageDocument } from "../generated/types/StageDocument";
import type { Send } from "../generated/types/Send";
import type { Strip } from "../generated/types/Strip";
import { effectOf } from "../core/core";
import { MOST_SHARED } from "../generated/live";
import { valueOf } from "../core/values";
import { soundName, soundsOf } from "../measuring/sounds";
import type { Runs, ToLive } from "./worklet/messages";

export interface Lane {
  path: PathDocument;
  /** Gain of its level match, dB. */
  matchDb: number;
}

/** A shared path to which the stem at work may send, and how what comes back sits in the sum. */
export interface SharedLane {
  path: PathDocument;
  send: Send | undefined;
  strip: Strip;
  heard: boolean;
}

export interface Lanes {
  lanes: Lane[];
  /** All shared paths, in their order. */
  shared: SharedLane[];
  /** The lane that is heard. */
  heard: number;
}

export const NO_LANES: Lanes = { lanes: [], shared: [], heard: 0 };

/** Whether all responses of a path are at hand, by their names. */
function isThere(path: PathDocument, numbers: Map<string, number>): boolean {
  return path.stages.every((stage) => {
    const whole = effectOf(stage).sounds.filter((slot) => slot.whole);
    return soundsOf(stage).every(
      (sound) => whole.every(({ id }) => id !== sound.slot) || numbers.has(soundName(sound)),
    );
  });
}

/** What runs while responses are on their way: of every lane that waits for one, what ran in it last. */
export function waiting(wanted: Lanes, last: Lanes, numbers: Map<string, number>): Lanes {
  const held = <L extends { path: PathDocument }>(lane: L, before: L | undefined) =>
    before && !isThere(lane.path, numbers) ? before : lane;
  const lanes = wanted.lanes.map((lane, i) => held(lane, last.lanes[i]));
  const shared = wanted.shared.map((lane, i) => held(lane, last.shared[i]?.send ? last.shared[i] : undefined));
  const same =
    lanes.every((lane, i) => lane === wanted.lanes[i]) && shared.every((lane, i) => lane === wanted.shared[i]);
  return same ? wanted : { ...wanted, lanes, shared };
}

/** Values one by one where only values differ, a path whole where it is built otherwise. */
export function laneChanges(last: Lanes, next: Lanes): ToLive[] {
  const messages: ToLive[] = [];
  next.lanes.forEach((lane, index) => {
    const before = last.lanes[index];
    messages.push(...pathChanges(inLane(index), before?.path, lane.path));
    if (before?.matchDb !== lane.matchDb) messages.push({ kind: "match", lane: index, gainDb: lane.matchDb });
  });
  for (let number = 0; number < MOST_SHARED; number++)
    messages.push(...sharedChanges(number, last.shared[number], next.shared[number]));
  if (last.heard !== next.heard) messages.push({ kind: "heard", lane: next.heard });
  if (last.lanes.length > next.lanes.length) messages.push({ kind: "keep-lanes", count: next.lanes.length });
  return messages;
}

/** A shared path is built once the stem at work sends to it. */
function sharedChanges(number: number, last: SharedLane | undefined, next: SharedLane | undefined): ToLive[] {
  const messages: ToLive[] = [];
  const [before, now] = [last?.send, next?.send];
  if (next && now) {
    messages.push(...pathChanges(asShared(number), before && last?.path, next.path));
    const { heard, strip } = next;
    if (!before || last?.heard !== heard || last.strip !== strip)
      messages.push({ kind: "return", number, heard, levelDb: strip.level_db, pan: strip.pan });
  }
  if (before !== now)
    messages.push({
      kind: "send",
      number,
      sends: now !== undefined,
      levelDb: now?.level_db ?? 0,
      beforeStrip: now?.before_strip ?? false,
    });
  return messages;
}

const inLane = (number: number): Runs => ({ shared: false, number });
const asShared = (number: number): Runs => ({ shared: true, number });

/** Whether two of them are the same. */
export const samePlace = (a: Runs, b: Runs) => a.shared === b.shared && a.number === b.number;

/** All paths that run. */
function running({ lanes, shared }: Lanes): [Runs, PathDocument][] {
  return [
    ...lanes.map(({ path }, number): [Runs, PathDocument] => [inLane(number), path]),
    ...shared.flatMap(({ path, send }, number): [Runs, PathDocument][] => (send ? [[asShared(number), path]] : [])),
  ];
}

/** Gives the stages of all that runs the sounds that are at hand, by their names. */
export function givenSounds(
  lanes: Lanes,
  numbers: Map<string, number>,
  wanted: (runs: Runs, name: string) => boolean,
): ToLive[] {
  return running(lanes).flatMap(([runs, path]) =>
    path.stages.flatMap((document, stage) =>
      soundsOf(document).flatMap((sound): ToLive[] => {
        const name = soundName(sound);
        const known = wanted(runs, name) ? numbers.get(name) : undefined;
        const slot = effectOf(document).sounds.findIndex(({ id }) => id === sound.slot);
        return known === undefined ? [] : [{ kind: "give", sound: known, runs, stage, slot }];
      }),
    ),
  );
}

function pathChanges(runs: Runs, before: PathDocument | undefined, after: PathDocument): ToLive[] {
  if (before === after) return [];
  const same =
    before?.stages.length === after.stages.length &&
    after.stages.every((stage, i) => sameShape(before.stages[i], stage));
  if (!before || !same) return [{ kind: "lane", runs, json: new TextEncoder().encode(JSON.stringify(after)) }];
  return after.stages.flatMap((stage, i) => stageChanges(runs, i, before.stages[i] ?? stage, stage));
}

function sameShape(a: StageDocument | undefined, b: StageDocument): boolean {
  return (
    a?.effect === b.effect && a.scope === b.scope && JSON.stringify(a.sounds ?? {}) === JSON.stringify(b.sounds ?? {})
  );
}

function stageChanges(runs: Runs, index: number, before: StageDocument, after: StageDocument): ToLive[] {
  if (before === after) return [];
  const messages: ToLive[] = [];
  if (before.mix !== after.mix || before.on !== after.on) {
    messages.push({ kind: "mix", runs, stage: index, mix: after.mix, on: after.on });
  }
  effectOf(after).params.forEach((param, place) => {
    const value = valueOf(after, param);
    if (value !== valueOf(before, param)) messages.push({ kind: "param", runs, stage: index, param: place, value });
  });
  return messages;
}
