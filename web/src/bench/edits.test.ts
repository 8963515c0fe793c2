import fc from "fast-check";
import { beforeAll, expect, test } from "vitest";

import { catalogue, checkedBench, effectNamed, freshBench, paramNamed } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Param } from "../generated/types/Param";
import { benchWith, coreForTests } from "../testing/core";
import {
  acts,
  afresh,
  isFresh,
  pathOf,
  picturedStage,
  sourceWith,
  withFan,
  withLinked,
  withListening,
  withoutSnapshot,
  withoutStage,
  withoutStem,
  withPicture,
  withPlay,
  withReference,
  withRegion,
  withSnapshot,
  withSnapshotAdded,
  withSnapshotCopied,
  withSound,
  withSource,
  withStage,
  withStageAdded,
  withStageMoved,
  withStartingPoint,
  withStem,
  withStemAdded,
  withStrip,
  withValue,
  withView,
  withWork,
  workOf,
} from "./edits";
import { valueOf } from "../core/values";

beforeAll(coreForTests);

/** A parameter of an effect that is there. */
function param(effect: string, id: string): Param {
  const found = paramNamed(effectNamed(effect), id);
  if (!found) throw new Error(`${effect} has no ${id}`);
  return found;
}

const effects = (bench: BenchDocument) => pathOf(bench).stages.map(({ effect }) => effect);

test("a value at its default is not written, and another one is, once", async () => {
  const bench = await benchWith("compressor");
  const ratio = param("compressor", "ratio");
  const [stage] = pathOf(bench).stages;
  if (!stage) throw new Error("no stage");
  const moved = withValue(withValue(stage, ratio, 3), ratio, Infinity);
  expect(moved.params).toEqual({ ratio: "inf" });
  expect(valueOf(moved, ratio)).toBe(Infinity);
  expect(withValue(moved, ratio, 4).params).toEqual({});
  const mix = effectNamed("compressor").mix;
  expect(withValue(stage, mix, 0.25)).toMatchObject({ mix: 0.25, params: {} });
});

test("only the stage that is meant changes, and only a new document", async () => {
  const bench = await benchWith("compressor", "gain", "limiter");
  const before = JSON.stringify(bench);
  const after = withStage(bench, 1, (stage) => ({ ...stage, on: false }));
  expect(pathOf(after).stages.map(({ on }) => on)).toEqual([true, false, true]);
  expect(pathOf(after).stages[0]).toBe(pathOf(bench).stages[0]);
  expect(JSON.stringify(bench)).toBe(before);
});

test("a stage is put in as it begins, goes to where it is moved, and is gone", async () => {
  const bench = await benchWith("compressor", "gain");
  const added = withStageAdded(bench, effectNamed("vibrato"));
  expect(effects(added)).toEqual(["compressor", "gain", "vibrato"]);
  expect(added.view.stage).toBe(2);
  const [, , vibrato] = pathOf(added).stages;
  if (!vibrato) throw new Error("no stage");
  for (const [id, value] of effectNamed("vibrato").begins) expect(valueOf(vibrato, param("vibrato", id))).toBe(value);
  expect(isFresh(vibrato)).toBe(true);
  const rate = param("vibrato", "rate_hz");
  const touched = withValue(vibrato, rate, 1);
  expect(isFresh(touched)).toBe(false);
  expect(afresh(touched)).toEqual(vibrato);
  expect(effects(withStageMoved(added, 2, 0))).toEqual(["vibrato", "compressor", "gain"]);
  expect(withStageMoved(added, 2, 0).view.stage).toBe(0);
  expect(effects(withoutStage(added, 0))).toEqual(["gain", "vibrato"]);
});

test("what is looked at stays where the same effect stands, and only there", async () => {
  const bench = withView(await benchWith("compressor", "gain"), { stage: 1, kept: 0, spotlight: "gain_db" });
  expect(picturedStage(bench.view)).toBe(0);
  const snapshots = withSnapshotAdded(bench);
  const other = withStage(snapshots, 0, (stage) => ({ ...stage, on: false }));
  expect(withSnapshot(other, 0).view).toMatchObject({ stage: 1, kept: 0, spotlight: "gain_db" });
  const shorter = withoutStage(other, 0);
  expect(shorter.view).toMatchObject({ kept: null, spotlight: null });
  expect(withSnapshot(shorter, 0).view.stage).toBeLessThan(2);
  expect(withPicture(bench, "curve").view.picture).toBe(bench.view.picture);
});

test("a tempo is that of the whole bench: moved once, it stands everywhere", async () => {
  const shared = catalogue.effects.flatMap((effect) =>
    effect.params.filter((p) => p.shared).map((p) => [effect.id, p] as const),
  );
  const [first] = shared;
  if (!first) throw new Error("nothing is shared");
  const [effect, tempo] = first;
  const two = withSnapshotAdded(await benchWith(effect, effect));
  const bench = withStemAdded(two, { kind: "sine" });
  const moved = withStage(withWork(bench, 0), 0, (stage) => withValue(stage, tempo, 97));
  const all = moved.stems.flatMap(({ snapshots }) => snapshots.flatMap(({ stages }) => stages));
  expect(all).toHaveLength(4);
  expect(all.map((stage) => valueOf(stage, tempo))).toEqual([97, 97, 97, 97]);
  // And who comes later has it.
  const later = pathOf(withStageAdded(moved, effectNamed(effect))).stages.at(-1);
  expect(later && valueOf(later, tempo)).toBe(97);
});

test("linked stages move together, each place of the cycle by as much", async () => {
  const rate = (id: string) => param(id, "rate_hz");
  const linked = withLinked(withView(await benchWith("chorus", "gain", "phaser"), { stage: 0 }), true);
  const moved = withStage(linked, 0, (stage) => withValue(stage, rate("chorus"), 1.5));
  const [, , phaser] = pathOf(moved).stages;
  expect(phaser && valueOf(phaser, rate("phaser"))).toBe(1.5);
  const alone = withStage(withLinked(linked, false), 0, (stage) => withValue(stage, rate("chorus"), 1.5));
  expect(pathOf(alone).stages[2]).toBe(pathOf(linked).stages[2]);
});

test("a stem that goes takes its sends along, and what it drove keeps its sound", async () => {
  const key = { kind: "stem", stem: 1 };
  let bench = withStemAdded(withStemAdded(await benchWith("compressor"), { kind: "white-noise" }), { kind: "sine" });
  bench = withStage(withWork(bench, 0), 0, (stage) => withSound(stage, "key", key));
  bench = withStem(bench, 2, (stem) => ({
    ...stem,
    sends: [{ to: 1, level_db: -6, before_strip: false }] as NonNullable<typeof stem.sends>,
  }));
  const gone = withoutStem(bench, 1);
  expect(pathOf(gone).stages[0]?.sounds).toEqual({ key: { kind: "white-noise" } });
  expect(gone.stems[1]?.sends).toEqual([]);
  // What comes from a later one follows it to its new place.
  const later = withStage(bench, 0, (stage) => withSound(stage, "key", { ...key, stem: 2 }));
  expect(pathOf(withoutStem(later, 1)).stages[0]?.sounds).toEqual({ key: { kind: "stem", stem: 1 } });
  expect(withoutStem(bench, 9)).toBe(bench);
});

test("a parameter acts where its switch stands for it", async () => {
  const bench = await benchWith("compressor");
  const [stage] = pathOf(bench).stages;
  if (!stage) throw new Error("no stage");
  const [window, detector] = [param("compressor", "rms_window_ms"), param("compressor", "detector")];
  expect(acts(stage, window)).toBe(false);
  expect(acts(withValue(stage, detector, 1), window)).toBe(true);
  expect(acts(stage, param("compressor", "ratio"))).toBe(true);
});

test("without a reference nobody hears it", async () => {
  const bench = withListening(withReference(await benchWith(), { kind: "sine" }), { hear: "reference" });
  expect(withReference(bench, null).listening.hear).toBe("after");
  expect(withReference(withListening(bench, { hear: "difference" }), null).listening.hear).toBe("difference");
});

test("another source begins with all of it, and its settings are written like any others", async () => {
  const bench = withRegion(await benchWith("gain"), { from_s: 1, to_s: 2 });
  const after = withSource(bench, { kind: "sine" });
  expect(after.region).toBeNull();
  const sine = catalogue.signals.find(({ id }) => id === "sine");
  const freq = sine?.params.find(({ id }) => id === "freq_hz");
  if (!freq) throw new Error("a sine has no frequency");
  const moved = sourceWith({ kind: "sine" }, [[freq, 440.5]]);
  expect(moved.params).toEqual({ freq_hz: 440.5 });
  expect(sourceWith(moved, [[freq, Number(freq.default)]]).params).toEqual({});
});

/** Whatever a hand can do to a bench, by numbers that a test draws. */
const hands: ((bench: BenchDocument, a: number, b: number, at: number) => BenchDocument)[] = [
  (bench, a) =>
    pathOf(bench).stages.length < 5
      ? withStageAdded(bench, catalogue.effects[a % catalogue.effects.length] ?? effectNamed("gain"))
      : bench,
  (bench, a) => withoutStage(bench, a % Math.max(1, pathOf(bench).stages.length)),
  (bench, a, b) =>
    withStageMoved(bench, a % Math.max(1, pathOf(bench).stages.length), b % Math.max(1, pathOf(bench).stages.length)),
  (bench, a, b, at) =>
    withStage(bench, a % Math.max(1, pathOf(bench).stages.length), (stage) => {
      const { params } = effectNamed(stage.effect);
      const moved = params[b % params.length];
      const [low, high] = [Number(moved?.min), Number(moved?.max)];
      if (!moved || !Number.isFinite(low) || !Number.isFinite(high)) return stage;
      const step = moved.step > 0 ? moved.step : (high - low) / 16;
      return withValue(stage, moved, Math.min(high, low + Math.round((at * (high - low)) / step) * step));
    }),
  (bench, a, b) =>
    withStage(bench, a % Math.max(1, pathOf(bench).stages.length), (stage) => {
      const { starting } = effectNamed(stage.effect);
      const point = starting[b % Math.max(1, starting.length)];
      return point ? withStartingPoint(stage, point) : stage;
    }),
  (bench, a) => withStage(bench, a % Math.max(1, pathOf(bench).stages.length), afresh),
  (bench) => (workOf(bench).snapshots.length < 4 ? withSnapshotAdded(bench) : bench),
  (bench, a) => withSnapshot(bench, a % workOf(bench).snapshots.length),
  (bench, a) => withSnapshotCopied(bench, a % workOf(bench).snapshots.length),
  (bench, a) =>
    workOf(bench).snapshots.length > 1 ? withoutSnapshot(bench, a % workOf(bench).snapshots.length) : bench,
  (bench, a) => (bench.stems.length < 4 ? withStemAdded(bench, { kind: a % 2 === 0 ? "sine" : "white-noise" }) : bench),
  (bench, a) => (bench.stems.length > 1 ? withoutStem(bench, a % bench.stems.length) : bench),
  (bench, a) => withWork(bench, a % bench.stems.length),
  (bench, a, _, at) => withStrip(bench, a % bench.stems.length, { level_db: Math.round(12 * at) - 6, mute: at > 0.5 }),
  (bench, a) => withPlay(bench, a % 2 === 0 ? "round" : "once"),
  (bench, a) => withLinked(bench, a % 2 === 0),
  (bench) => withFan(bench, null),
  (bench, a, b) =>
    withStage(bench, a % Math.max(1, pathOf(bench).stages.length), (stage) => {
      const { sounds } = effectNamed(stage.effect);
      const slot = sounds[b % Math.max(1, sounds.length)];
      return slot && !slot.whole ? withSound(stage, slot.id, b % 3 === 0 ? undefined : { kind: "pink-noise" }) : stage;
    }),
];

test("whatever a hand does, the core accepts it, as it stands", () => {
  const moves = fc.array(
    fc.tuple(fc.nat(hands.length - 1), fc.nat(30), fc.nat(30), fc.double({ min: 0, max: 1, noNaN: true })),
    { maxLength: 25 },
  );
  fc.assert(
    fc.property(moves, (all) => {
      const bench = all.reduce((now, [hand, a, b, at]) => hands[hand]?.(now, a, b, at) ?? now, freshBench());
      const checked = checkedBench(bench);
      // The same settings are the same document, but for what is written where nothing is set.
      const bare = (text: string) => text.replaceAll(/,"(params|sounds)":\{\}|,"sends":\[\]/g, "");
      const sorted = (value: unknown): unknown =>
        Array.isArray(value)
          ? value.map(sorted)
          : value && typeof value === "object"
            ? Object.fromEntries(
                Object.entries(value)
                  .sort(([x], [y]) => (x < y ? -1 : 1))
                  .map(([k, v]) => [k, sorted(v)]),
              )
            : value;
      const paths = (of: BenchDocument) =>
        of.stems.map(({ snapshots }) =>
          snapshots.map(({ stages }) =>
            stages.map((stage) => [
              stage.effect,
              stage.on,
              stage.mix,
              sorted(stage.params ?? {}),
              sorted(stage.sounds ?? {}),
            ]),
          ),
        );
      expect(paths(checked)).toEqual(paths(bench));
      expect(bare(JSON.stringify(sorted(checkedBench(checked))))).toBe(bare(JSON.stringify(sorted(checked))));
    }),
    { numRuns: 150 },
  );
});
