import fc from "fast-check";
import { expect, test } from "vitest";

import type { PathDocument } from "../generated/types/PathDocument";
import type { PlayedStem } from "../generated/types/PlayedStem";
import type { SourceDocument } from "../generated/types/SourceDocument";
import {
  backingKey,
  comparedKey,
  isWanted,
  Kept,
  matchesKey,
  overviewKey,
  passageKey,
  referenceKey,
  referenceSpectrumKey,
  soundKey,
} from "./depends";
import type { Request } from "./messages";
import { soundName } from "./sounds";

const source = (kind: string): SourceDocument => ({ kind, params: {} });
const path = (...effects: string[]): PathDocument => ({
  stages: effects.map((effect) => ({ effect, on: true, scope: "stereo", mix: 100, params: {}, sounds: {} })),
});
const strip = { level_db: 0, pan: 0, mute: false, solo: false };
const stem = (kind: string, ...effects: string[]): PlayedStem => ({
  source: source(kind),
  path: path(...effects),
  strip,
  sends: [],
});

const NAMES = ["passage", "overview", "backing", "compared", "reference", "spectrum", "matches"] as const;
type Name = (typeof NAMES)[number];

const LAID = new Map<string, string>();

function keys(request: Request, laid: ReadonlyMap<string, string> = LAID): Record<Name, string> {
  const passage = passageKey(request);
  return {
    passage,
    overview: overviewKey(request),
    backing: backingKey(request, passage, laid),
    compared: comparedKey(request, passage, laid),
    reference: referenceKey(request, passage),
    spectrum: referenceSpectrumKey(request, passage),
    matches: matchesKey(path("gain"), request, passage, laid),
  };
}

/** Three stems, of which the first is worked on, a shared path, and everything wanted that can be. */
const REQUEST: Request = {
  id: 1,
  opening: 1,
  stems: [
    { ...stem("drums", "compressor"), sends: [{ to: 3, level_db: -6, before_strip: false }] },
    stem("bass", "equaliser"),
    stem("voice"),
    stem("sent", "reverb"),
  ],
  work: 0,
  region: null,
  play: "round",
  reference: source("pink-noise"),
  allStems: true,
  sendsAs: "shared",
  comparing: true,
  stage: 0,
  pictured: 0,
  columns: 640,
  bends: [],
  fan: null,
  picture: "curve",
  how: { scope: "stereo", resolution: "medium", fall_db_s: 20, averages: false, smooth_octaves: 0 },
  toneHz: 440,
  bandHz: null,
  beside: null,
  other: null,
  others: [],
};

/** What is made anew when a request changes from one to another. */
const changed = (from: Request, to: Request): Name[] => NAMES.filter((name) => keys(from)[name] !== keys(to)[name]);

const withStem = (place: number, change: Partial<PlayedStem>): Request => ({
  ...REQUEST,
  stems: REQUEST.stems.map((one, i) => (i === place ? { ...one, ...change } : one)),
});

test("each part of a request makes anew what reads it, and nothing else", () => {
  const all = [...NAMES];
  const cases: [string, Request, readonly Name[]][] = [
    ["another request", { ...REQUEST, id: 2 }, []],
    ["another opening", { ...REQUEST, opening: 2 }, all],
    ["another picture", { ...REQUEST, picture: "over-time" }, ["spectrum"]],
    ["another pictured stage", { ...REQUEST, pictured: 1, stage: 1 }, []],
    [
      "bends and a fan",
      { ...REQUEST, bends: ["ratio"], fan: { count: 3, values: null, same: null } as Request["fan"] },
      [],
    ],
    ["more columns", { ...REQUEST, columns: 800 }, ["overview", "reference", "spectrum"]],
    ["another region", { ...REQUEST, region: { from_s: 0, to_s: 1 } }, all.filter((name) => name !== "overview")],
    ["played once", { ...REQUEST, play: "once" }, ["backing", "compared", "matches"]],
    ["another reference", { ...REQUEST, reference: source("sine") }, ["reference", "spectrum"]],
    ["no reference", { ...REQUEST, reference: null }, ["reference", "spectrum"]],
    ["how spectra are taken", { ...REQUEST, how: { ...REQUEST.how, resolution: "fine" } }, ["spectrum"]],
    ["one stem alone", { ...REQUEST, allStems: false }, ["backing", "compared"]],
    ["heard as inserts", { ...REQUEST, sendsAs: "inserts" as Request["sendsAs"] }, ["backing", "compared"]],
    ["not compared", { ...REQUEST, comparing: false }, ["compared"]],
    ["its own path", withStem(0, { path: path("gate") }), ["compared"]],
    ["its own level", withStem(0, { strip: { ...strip, level_db: -3 } }), ["compared"]],
    ["its own solo", withStem(0, { strip: { ...strip, solo: true } }), ["backing", "compared"]],
    ["how much it sends", withStem(0, { sends: [{ to: 3, level_db: -9, before_strip: false }] }), ["compared"]],
    ["that it sends", withStem(0, { sends: [] }), ["backing", "compared"]],
    ["its source", withStem(0, { source: source("keys") }), all],
    ["another stem's path", withStem(1, { path: path("gate") }), ["backing", "compared"]],
    ["another stem's level", withStem(2, { strip: { ...strip, level_db: -3 } }), ["backing", "compared"]],
  ];
  for (const [what, request, names] of cases)
    expect([what, changed(REQUEST, request)]).toEqual([what, NAMES.filter((name) => names.includes(name))]);
});

test("what is sent is made of all who send, and not of the path that it runs through", () => {
  const shared: Request = { ...REQUEST, work: 3 };
  const changes = (place: number, change: Partial<PlayedStem>) =>
    changed(shared, { ...shared, stems: shared.stems.map((one, i) => (i === place ? { ...one, ...change } : one)) });
  expect(changes(0, { path: path("gate") })).toContain("passage");
  expect(changes(0, { sends: [{ to: 3, level_db: -9, before_strip: false }] })).toContain("passage");
  expect(changes(3, { path: path("chorus") })).not.toContain("passage");
  expect(changed(shared, { ...shared, play: "once" })).toContain("passage");
});

test("a sound through a path is another one once the path, or what that takes, is", () => {
  const wanted = { effect: "compressor", slot: "key", sound: { kind: "stem", params: {}, stem: 1, after: true } };
  const alone = { ...wanted, sound: { ...wanted.sound, after: false } };
  const name = soundName({ effect: "compressor", slot: "key", sound: source("drums") });
  const keyed = withStem(1, {
    path: { ...path("compressor"), stages: [{ ...path("compressor").stages[0]!, sounds: { key: source("drums") } }] },
  });
  const of = (request: Request, laid = LAID) => soundKey(wanted, request, laid);
  expect(of(withStem(1, { path: path("gate") }))).not.toBe(of(REQUEST));
  expect(of({ ...REQUEST, play: "once" })).not.toBe(of(REQUEST));
  expect(of(withStem(0, { path: path("gate") }))).toBe(of(REQUEST));
  expect(of(keyed, new Map([[name, "one"]]))).not.toBe(of(keyed, new Map([[name, "another"]])));
  // Before its path it is the source alone.
  expect(soundKey(alone, withStem(1, { path: path("gate") }), LAID)).toBe(soundKey(alone, REQUEST, LAID));
  expect(soundKey(alone, withStem(1, { source: source("keys") }), LAID)).not.toBe(soundKey(alone, REQUEST, LAID));
});

test("a sound that comes later makes anew what it is heard in", () => {
  const response = { kind: "track", params: {}, track: "abc" };
  const stages = [{ ...path("convolution").stages[0]!, sounds: { response } }];
  const request = withStem(1, { path: { ...path(), stages } });
  const laid = new Map([[soundName({ effect: "convolution", slot: "response", sound: response }), "abc"]]);
  const [without, having] = [keys(request), keys(request, laid)];
  expect(NAMES.filter((name) => without[name] !== having[name])).toEqual(["backing", "compared"]);
});

test("what is not wanted is the same for all requests", () => {
  const off: Request = { ...REQUEST, allStems: false };
  expect(isWanted(keys(off).backing)).toBe(false);
  expect(keys({ ...off, columns: 3, play: "once" }).backing).toBe(keys(off).backing);
  expect(isWanted(keys(REQUEST).backing)).toBe(true);
});

test("any changes make a value once for each key, and never leave an old one", async () => {
  const step = fc.record({ name: fc.constantFrom("a", "b"), key: fc.constantFrom("1", "2", "3"), fails: fc.boolean() });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { maxLength: 30 }), async (steps) => {
      const kept = new Kept();
      const shown = new Map<string, string>();
      let previous: string | undefined;
      for (const { name, key, fails } of steps) {
        const stands = shown.get(name) === key;
        let made = false;
        const making = kept.make(name, key, async () => {
          made = true;
          await Promise.resolve();
          shown.delete(name);
          if (fails) throw new Error("overtaken");
          shown.set(name, key);
        });
        await making.catch(() => {});
        expect(made).toBe(!stands);
        previous = shown.get(name);
        if (!fails || stands) expect(previous).toBe(key);
      }
    }),
  );
});
