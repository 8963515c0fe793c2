import fc from "fast-check";
import { beforeAll, expect, test } from "vitest";

import { withSound, withStageAdded, withValue } from "../bench/edits";
import { valueOf } from "../core/values";
import { pathOf } from "../bench/edits";
import { catalogue, effectNamed, freshBench } from "../core/core";
import { MOST_SHARED } from "../generated/live";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Send } from "../generated/types/Send";
import { soundName } from "../measuring/sounds";
import { benchWith, coreForTests } from "../testing/core";
import { givenSounds, laneChanges, type Lanes, NO_LANES, type SharedLane, waiting } from "./lanes";
import type { Runs, ToLive } from "./worklet/messages";

beforeAll(coreForTests);

const at = ({ shared, number }: Runs) => `${shared ? "shared" : "lane"} ${number}`;

/** Who is told the messages, and does with them what the audio thread does: the paths by lane, value by value. */
class Told {
  /** By {@link at}. */
  readonly paths = new Map<string, PathDocument>();
  readonly matches = new Map<number, number>();
  readonly sends = new Map<number, Extract<ToLive, { kind: "send" }>>();
  readonly returns = new Map<number, Extract<ToLive, { kind: "return" }>>();
  heard = 0;

  /** The places of the lanes, in their order. */
  lanes(): string[] {
    return [...this.paths.keys()]
      .filter((place) => place.startsWith("lane"))
      .sort((a, b) => Number(a.slice(5)) - Number(b.slice(5)));
  }

  take(message: ToLive): void {
    switch (message.kind) {
      case "lane":
        this.paths.set(at(message.runs), JSON.parse(new TextDecoder().decode(message.json)) as PathDocument);
        break;
      case "param":
      case "mix": {
        const path = this.paths.get(at(message.runs));
        const stage = path?.stages[message.stage];
        if (!path || !stage) throw new Error("a value for a path that is not there");
        const param = message.kind === "param" ? effectNamed(stage.effect).params[message.param] : undefined;
        const moved =
          message.kind === "mix"
            ? { ...stage, mix: message.mix, on: message.on }
            : param
              ? withValue(stage, param, message.value)
              : stage;
        this.paths.set(at(message.runs), {
          ...path,
          stages: path.stages.map((of, i) => (i === message.stage ? moved : of)),
        });
        break;
      }
      case "match":
        this.matches.set(message.lane, message.gainDb);
        break;
      case "keep-lanes":
        for (const place of this.lanes().slice(message.count)) this.paths.delete(place);
        break;
      case "heard":
        this.heard = message.lane;
        break;
      case "send":
        this.sends.set(message.number, message);
        break;
      case "return":
        this.returns.set(message.number, message);
        break;
      default:
        throw new Error(`nobody asked for ${message.kind}`);
    }
  }
}

/** All that a path sounds by. */
const sounding = (path: PathDocument | undefined) =>
  path?.stages.map((stage) => [
    stage.effect,
    stage.on,
    stage.mix,
    stage.scope,
    stage.sounds ?? {},
    effectNamed(stage.effect).params.map((param) => valueOf(stage, param)),
  ]);

const anyPath = fc.array(fc.tuple(fc.nat(40), fc.boolean(), fc.nat(40), fc.double({ min: 0, max: 1, noNaN: true })), {
  maxLength: 3,
});

function pathFrom(drawn: [number, boolean, number, number][]): PathDocument {
  const bench = drawn.reduce(
    (now, [effect]) => withStageAdded(now, catalogue.effects[effect % catalogue.effects.length] ?? effectNamed("gain")),
    freshBench(),
  );
  const path = pathOf(bench);
  const stages = path.stages.slice(-drawn.length || path.stages.length).map((stage, i) => {
    const [, on, place, at] = drawn[i] ?? [0, true, 0, 0];
    const { params } = effectNamed(stage.effect);
    const param = params[place % params.length];
    const [low, high] = [Number(param?.min), Number(param?.max)];
    const moved = param && Number.isFinite(low + high) ? withValue(stage, param, low + at * (high - low)) : stage;
    return { ...moved, on };
  });
  return { ...path, stages: drawn.length === 0 ? [] : stages };
}

const strip = { level_db: 0, pan: 0, mute: false, solo: false };

const anyLanes = fc
  .record({
    lanes: fc.array(fc.record({ path: anyPath, matchDb: fc.integer({ min: -12, max: 12 }) }), {
      minLength: 1,
      maxLength: 4,
    }),
    shared: fc.array(
      fc.record({ path: anyPath, level: fc.option(fc.integer({ min: -12, max: 0 })), heard: fc.boolean() }),
      { maxLength: 2 },
    ),
    heard: fc.nat(3),
  })
  .map(({ lanes, shared, heard }) => ({ lanes, shared, heard: heard % lanes.length }));

function lanesFrom(drawn: {
  lanes: { path: [number, boolean, number, number][]; matchDb: number }[];
  shared: { path: [number, boolean, number, number][]; level: number | null; heard: boolean }[];
  heard: number;
}): Lanes {
  return {
    lanes: drawn.lanes.map(({ path, matchDb }) => ({ path: pathFrom(path), matchDb })),
    shared: drawn.shared.map(({ path, level, heard }): SharedLane => ({
      path: pathFrom(path),
      send: level === null ? undefined : ({ to: 1, level_db: level, before_strip: false } as Send),
      strip,
      heard,
    })),
    heard: drawn.heard,
  };
}

test("whatever has been told before, what is told makes the audio thread play what is wanted", () => {
  fc.assert(
    fc.property(fc.array(anyLanes, { minLength: 1, maxLength: 4 }), (states) => {
      const told = new Told();
      let last = NO_LANES;
      for (const next of states.map(lanesFrom)) {
        for (const message of laneChanges(last, next)) told.take(message);
        next.lanes.forEach((lane, i) => {
          expect(sounding(told.paths.get(`lane ${i}`))).toEqual(sounding(lane.path));
          expect(told.matches.get(i)).toBe(lane.matchDb);
        });
        expect(told.lanes()).toHaveLength(next.lanes.length);
        expect(told.heard).toBe(next.heard);
        next.shared.forEach((lane, number) => {
          expect(told.sends.get(number)?.sends ?? false).toBe(lane.send !== undefined);
          if (!lane.send) return;
          expect(sounding(told.paths.get(`shared ${number}`))).toEqual(sounding(lane.path));
          expect(told.sends.get(number)?.levelDb).toBe(lane.send.level_db);
          expect(told.returns.get(number)?.heard).toBe(lane.heard);
        });
        // The same again is nothing to tell.
        expect(laneChanges(next, next)).toEqual([]);
        last = next;
      }
    }),
    { numRuns: 60 },
  );
});

test("a value that moves is one message, another effect the path anew", async () => {
  const path = pathOf(await benchWith("compressor", "gain"));
  const of = (stages: PathDocument["stages"]): Lanes => ({
    lanes: [{ path: { ...path, stages }, matchDb: 0 }],
    shared: [],
    heard: 0,
  });
  const [compressor, gain] = path.stages as [PathDocument["stages"][number], PathDocument["stages"][number]];
  const ratio = effectNamed("compressor").params.find(({ id }) => id === "ratio");
  if (!ratio) throw new Error("no ratio");
  const moved = laneChanges(of([compressor, gain]), of([withValue(compressor, ratio, 8), gain]));
  expect(moved).toEqual([
    {
      kind: "param",
      runs: { shared: false, number: 0 },
      stage: 0,
      param: effectNamed("compressor").params.indexOf(ratio),
      value: 8,
    },
  ]);
  expect(laneChanges(of([compressor, gain]), of([gain, compressor])).map(({ kind }) => kind)).toEqual(["lane"]);
  expect(
    laneChanges(of([compressor]), of([withSound(compressor, "key", { kind: "sine" })])).map(({ kind }) => kind),
  ).toEqual(["lane"]);
});

test("a path whose response is on its way waits, and what ran goes on", async () => {
  const response = { kind: "track", track: "ab".repeat(32) };
  const convolving = pathOf(await benchWith("convolution"));
  const stages = convolving.stages.map((stage) => withSound(stage, "response", response));
  const [before, wanted] = [pathOf(await benchWith("gain")), { ...convolving, stages }];
  const of = (path: PathDocument): Lanes => ({ lanes: [{ path, matchDb: 0 }], shared: [], heard: 0 });
  const numbers = new Map<string, number>();
  expect(waiting(of(wanted), of(before), numbers).lanes[0]?.path).toBe(before);
  // Where nothing ran, it plays without it.
  expect(waiting(of(wanted), NO_LANES, numbers).lanes[0]?.path).toBe(wanted);
  numbers.set(soundName({ effect: "convolution", slot: "response", sound: response }), 4);
  const there = of(wanted);
  expect(waiting(there, of(before), numbers)).toBe(there);
  expect(givenSounds(there, numbers, () => true)).toEqual([
    { kind: "give", sound: 4, runs: { shared: false, number: 0 }, stage: 0, slot: 0 },
  ]);
  expect(givenSounds(there, numbers, () => false)).toEqual([]);
  expect(MOST_SHARED).toBeGreaterThan(0);
});
