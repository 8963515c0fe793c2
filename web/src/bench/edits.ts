/** Changes to a bench, as pure functions: each takes a document and returns another one. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { Effect } from "../generated/types/Effect";
import type { FanDocument } from "../generated/types/FanDocument";
import type { Listening } from "../generated/types/Listening";
import type { Param } from "../generated/types/Param";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Picture } from "../generated/types/Picture";
import type { Play } from "../generated/types/Play";
import type { Region } from "../generated/types/Region";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { StageDocument } from "../generated/types/StageDocument";
import type { StartingPoint } from "../generated/types/StartingPoint";
import type { Stem } from "../generated/types/Stem";
import type { Strip } from "../generated/types/Strip";
import type { View } from "../generated/types/View";
import { acting, effectNamed, effectOf, paramNamed, sharedOf, signalOf } from "../core/core";
import { fromFile, toFile } from "../core/numbers";
import { MIX, valueOf } from "../core/values";

/** The stem that is worked on. A document always has one: the core has checked it. */
export function workOf(bench: BenchDocument): Stem {
  return bench.stems[bench.work] as Stem;
}

/** The path that is worked on: the chosen snapshot of the stem at work. */
export function pathOf(bench: BenchDocument): PathDocument {
  const { snapshots, snapshot } = workOf(bench);
  return snapshots[snapshot] as PathDocument;
}

/** The mix at which an effect is put in. */
function usualMix(effect: string): number {
  const { mix } = effectNamed(effect);
  return fromFile(mix.default, 1);
}

const actingOf = new WeakMap<StageDocument, ReadonlySet<string>>();

/** Whether a parameter of a stage does something as its choices stand. */
export function acts(stage: StageDocument, { id }: Param): boolean {
  const known = actingOf.get(stage) ?? new Set(acting(stage));
  actingOf.set(stage, known);
  return known.has(id);
}

type Values = NonNullable<StageDocument["params"]>;

/** Values without those that are at their defaults, as the core writes them: the same settings are the same document. */
function moved(params: Values | undefined, param: Param, value: number): Values {
  const others = Object.entries(params ?? {}).filter(([id]) => id !== param.id);
  return Object.fromEntries(value === fromFile(param.default, 0) ? others : [...others, [param.id, toFile(value)]]);
}

/** The values of an effect of which some are given, all others at their defaults. */
function valuesOf(effect: Effect, given: [string, number][]): Values {
  return given.reduce((values: Values, [id, value]) => {
    const param = paramNamed(effect, id);
    return param ? moved(values, param, value) : values;
  }, {});
}

export function withValue(stage: StageDocument, param: Param, value: number): StageDocument {
  if (param.id === MIX) return { ...stage, mix: value };
  return { ...stage, params: moved(stage.params, param, value) };
}

/** A source with some of its settings moved. */
export function sourceWith(source: SourceDocument, values: [Param, number][]): SourceDocument {
  return { ...source, params: values.reduce((params, [param, value]) => moved(params, param, value), source.params) };
}

/** Another sound in a slot of a stage, or none. */
export function withSound(stage: StageDocument, slot: string, sound: SourceDocument | undefined): StageDocument {
  const others = Object.entries(stage.sounds ?? {}).filter(([id]) => id !== slot);
  return { ...stage, sounds: Object.fromEntries(sound ? [...others, [slot, sound]] : others) };
}

/** Sounds that come from a stem keep coming from it when stem `gone` is taken away; what came from that one keeps its source. */
function withoutStemSounds(path: PathDocument, gone: number, source: SourceDocument): PathDocument {
  const kept = (sound: SourceDocument) => {
    if (sound.stem === undefined || sound.stem < gone) return sound;
    return sound.stem === gone ? source : { ...sound, stem: sound.stem - 1 };
  };
  const stages = path.stages.map((stage) =>
    Object.entries(stage.sounds ?? {}).reduce(
      (of, [slot, sound]) => (sound ? withSound(of, slot, kept(sound)) : of),
      stage,
    ),
  );
  return { ...path, stages };
}

/** A stage at its defaults but for some values; what the whole bench shares stays. */
function plainly(stage: StageDocument, given: [string, number][]): Values {
  const effect = effectOf(stage);
  return valuesOf(effect, [
    ...sharedOf(effect).map((param): [string, number] => [param.id, valueOf(stage, param)]),
    ...given,
  ]);
}

/** A usual setting: its values, all others at their defaults. */
export function withStartingPoint(stage: StageDocument, point: StartingPoint): StageDocument {
  return { ...stage, on: true, mix: point.mix, params: plainly(stage, point.values) };
}

/** A stage as it was when it was put in. */
export function afresh(stage: StageDocument): StageDocument {
  return { ...stage, mix: usualMix(stage.effect), params: plainly(stage, effectOf(stage).begins) };
}

/** Whether a stage is as it was when it was put in. */
export function isFresh(stage: StageDocument): boolean {
  const fresh = afresh(stage);
  const [now, then] = [stage.params ?? {}, fresh.params ?? {}];
  return (
    stage.mix === fresh.mix &&
    Object.keys(now).length === Object.keys(then).length &&
    Object.entries(then).every(([id, value]) => now[id] === value)
  );
}

function replaced<T>(list: T[], index: number, change: (item: T) => T): T[] {
  return list.map((item, i) => (i === index ? change(item) : item));
}

export function withStem(bench: BenchDocument, index: number, change: (stem: Stem) => Stem): BenchDocument {
  return { ...bench, stems: replaced(bench.stems, index, change) };
}

type Shared = Map<string, number>;

/** What stages say of the values that the whole bench shares, one after the other. */
function saidOfShared(stages: StageDocument[]): [string, number][] {
  return stages.flatMap((stage) =>
    sharedOf(effectOf(stage)).map((param): [string, number] => [param.id, valueOf(stage, param)]),
  );
}

const sharedBy = (stages: StageDocument[]): Shared => new Map(saidOfShared(stages));

/** What a source knows of them. */
function sharedFrom({ kind, params }: SourceDocument): Shared {
  const shared = signalOf(kind)?.params.filter((param) => param.shared) ?? [];
  return new Map(shared.map((param) => [param.id, fromFile(params?.[param.id], param.default)]));
}

/** The values that the whole bench shares: as they stand in its stages, or as the source at work knows them. */
function sharedOn(bench: BenchDocument): Shared {
  const stages = bench.stems.flatMap(({ snapshots }) => snapshots.flatMap((path) => path.stages));
  return new Map([...sharedFrom(workOf(bench).source), ...sharedBy(stages)]);
}

/** Sets them wherever they stand. */
function withShared(bench: BenchDocument, values: Shared): BenchDocument {
  if (values.size === 0) return bench;
  const stage = (of: StageDocument) =>
    sharedOf(effectOf(of)).reduce(
      (moved, param) => withValue(moved, param, values.get(param.id) ?? valueOf(of, param)),
      of,
    );
  const path = (of: PathDocument): PathDocument => ({ ...of, stages: of.stages.map(stage) });
  return { ...bench, stems: bench.stems.map((stem) => ({ ...stem, snapshots: stem.snapshots.map(path) })) };
}

/** Another state of the path that is worked on, with a stage in view that it has. What it moves of the values that the whole
 * bench shares, it moves everywhere. */
export function withPath(bench: BenchDocument, path: PathDocument): BenchDocument {
  const change = (stem: Stem) => ({ ...stem, snapshots: replaced(stem.snapshots, stem.snapshot, () => path) });
  const after = inView(bench, withStem(bench, bench.work, change));
  const before = sharedBy(pathOf(bench).stages);
  // One of several stages may have been moved: it is the one that says something else than before.
  const moved = saidOfShared(path.stages).filter(([id, value]) => before.get(id) !== value);
  return withShared(after, new Map(moved));
}

/** Keeps the view where the stage in view is of the same effect as before; elsewhere nothing is in the spotlight. */
function inView(before: BenchDocument, after: BenchDocument): BenchDocument {
  const same = (stage: number) => pathOf(before).stages[stage]?.effect === pathOf(after).stages[stage]?.effect;
  const { view } = after;
  const left = view.kept === null || same(view.kept) ? after : withView(after, { kept: null });
  if (same(view.stage)) return left;
  const stage = Math.min(view.stage, Math.max(0, pathOf(after).stages.length - 1));
  return withView(left, { stage, spotlight: null, fan: null });
}

/** The place in the path that the picture is of: the one that is kept in view, or the one that is worked on. */
export function picturedStage({ kept, stage }: View): number {
  return kept ?? stage;
}

/** Another picture, and with it the stage that it is of, where it follows the work. */
export function withPicture(bench: BenchDocument, picture: Picture | null): BenchDocument {
  return picture && bench.view.kept === null ? withView(bench, { picture }) : bench;
}

export function withStage(
  bench: BenchDocument,
  index: number,
  change: (stage: StageDocument) => StageDocument,
): BenchDocument {
  const path = pathOf(bench);
  const stages = replaced(path.stages, index, change);
  return withPath(bench, { ...path, stages: bench.view.linked ? carriedOver(path.stages, stages, index) : stages });
}

/** Whether a stage moves, and can be linked with others that do. */
export const isLinkable = (stage: StageDocument) => effectOf(stage).params.some((param) => param.linked !== "no");

/** What a change of one stage does to the others that are linked with it. */
function carriedOver(before: StageDocument[], after: StageDocument[], index: number): StageDocument[] {
  const [was, is] = [before[index], after[index]];
  if (!was || !is || was.effect !== is.effect || !isLinkable(is)) return after;
  const changed = effectOf(is).params.filter(
    (param) => param.linked !== "no" && valueOf(was, param) !== valueOf(is, param),
  );
  const carried = (stage: StageDocument) =>
    changed.reduce((moved, { id }) => {
      const [own, theirs] = [paramNamed(effectOf(stage), id), paramNamed(effectOf(is), id)];
      if (!own || !theirs) return moved;
      const value = valueOf(is, theirs);
      if (own.linked === "same") return withValue(moved, own, value);
      // Round and round, so that the distance stays.
      const [low, high] = [fromFile(own.min, 0), fromFile(own.max, 360)];
      const along = valueOf(stage, own) + value - valueOf(was, theirs) - low;
      return withValue(moved, own, low + (((along % (high - low)) + (high - low)) % (high - low)));
    }, stage);
  return after.map((stage, i) => (i === index || !isLinkable(stage) ? stage : carried(stage)));
}

/** Links the stages of the path that move, or lets them go; linked, they have the rate and the shape of the one that is worked on. */
export function withLinked(bench: BenchDocument, linked: boolean): BenchDocument {
  const view = withView(bench, { linked });
  const path = pathOf(bench);
  const from = path.stages[bench.view.stage];
  if (!linked || !from) return view;
  const stages = path.stages.map((stage) =>
    stage === from || !isLinkable(stage)
      ? stage
      : effectOf(from).params.reduce((moved, param) => {
          const own = param.linked === "same" ? paramNamed(effectOf(stage), param.id) : undefined;
          return own ? withValue(moved, own, valueOf(from, param)) : moved;
        }, stage),
  );
  return withPath(view, { ...path, stages });
}

/** A new stage at the end, seen in the picture that shows its effect best. */
export function withStageAdded(bench: BenchDocument, { id, pictures, sounds, begins }: Effect): BenchDocument {
  const path = pathOf(bench);
  const usual = sounds.flatMap((slot): [string, SourceDocument][] =>
    slot.usual === null ? [] : [[slot.id, { kind: slot.usual }]],
  );
  const stage: StageDocument = {
    effect: id,
    on: true,
    scope: "stereo",
    mix: usualMix(id),
    params: valuesOf(effectNamed(id), [...sharedOn(bench), ...begins]),
    ...(usual.length > 0 ? { sounds: Object.fromEntries(usual) } : {}),
  };
  const stages = [...path.stages, stage];
  const picture = pictures[0] ? { picture: pictures[0] } : {};
  return withView(withPath(bench, { ...path, stages }), {
    stage: stages.length - 1,
    kept: null,
    spotlight: null,
    fan: null,
    ...picture,
  });
}

export function withoutStage(bench: BenchDocument, index: number): BenchDocument {
  const path = pathOf(bench);
  const shown = withView(bench, { kept: null, spotlight: null, fan: null });
  return withPath(shown, { ...path, stages: path.stages.filter((_, i) => i !== index) });
}

export function withStageMoved(bench: BenchDocument, from: number, to: number): BenchDocument {
  const path = pathOf(bench);
  const stages = [...path.stages];
  const [stage] = stages.splice(from, 1);
  if (!stage) return bench;
  stages.splice(to, 0, stage);
  return withView(withPath(bench, { ...path, stages }), { stage: to, kept: null });
}

/** Chooses a snapshot to work on. */
export function withSnapshot(bench: BenchDocument, snapshot: number): BenchDocument {
  return inView(
    bench,
    withStem(bench, bench.work, (stem) => ({ ...stem, snapshot })),
  );
}

/** A new snapshot like the one at work, which is then worked on. */
export function withSnapshotAdded(bench: BenchDocument): BenchDocument {
  const path = pathOf(bench);
  return withStem(bench, bench.work, (stem) => ({
    ...stem,
    snapshots: [...stem.snapshots, path],
    snapshot: stem.snapshots.length,
  }));
}

/** Copies the snapshot at work over another one. */
export function withSnapshotCopied(bench: BenchDocument, to: number): BenchDocument {
  const path = pathOf(bench);
  return withStem(bench, bench.work, (stem) => ({ ...stem, snapshots: replaced(stem.snapshots, to, () => path) }));
}

export function withoutSnapshot(bench: BenchDocument, index: number): BenchDocument {
  const changed = withStem(bench, bench.work, (stem) => {
    const snapshots = stem.snapshots.filter((_, i) => i !== index);
    const snapshot = Math.min(stem.snapshot > index ? stem.snapshot - 1 : stem.snapshot, snapshots.length - 1);
    return { ...stem, snapshots, snapshot };
  });
  return inView(bench, changed);
}

export function withListening(bench: BenchDocument, change: Partial<Listening>): BenchDocument {
  return { ...bench, listening: { ...bench.listening, ...change } };
}

export function withView(bench: BenchDocument, change: Partial<View>): BenchDocument {
  return { ...bench, view: { ...bench.view, ...change } };
}

export function withFan(bench: BenchDocument, fan: FanDocument | null): BenchDocument {
  // The lines of a fan belong into the picture of their own stage.
  return withView(bench, fan ? { fan, kept: null } : { fan });
}

export function withRegion(bench: BenchDocument, region: Region | null): BenchDocument {
  return { ...bench, region };
}

export function withPlay(bench: BenchDocument, play: Play): BenchDocument {
  return { ...bench, play };
}

/** Another source for a stem, if not said otherwise the one at work; all of it. */
export function withSource(bench: BenchDocument, source: SourceDocument, stem = bench.work): BenchDocument {
  const after = { ...withStem(bench, stem, (of) => ({ ...of, source })), region: null };
  return stem === bench.work ? withShared(after, sharedFrom(source)) : after;
}

export function withSourceValue(bench: BenchDocument, param: Param, value: number): BenchDocument {
  const after = withStem(bench, bench.work, (stem) => ({
    ...stem,
    source: sourceWith(stem.source, [[param, value]]),
  }));
  return param.shared ? withShared(after, new Map([[param.id, value]])) : after;
}

export function withReference(bench: BenchDocument, reference: SourceDocument | null): BenchDocument {
  const hear = reference === null && bench.listening.hear === "reference" ? "after" : bench.listening.hear;
  return withListening({ ...bench, reference }, { hear });
}

/** Another stem beside those that are there, with an empty path. */
export function withStemAdded(bench: BenchDocument, source: SourceDocument): BenchDocument {
  const path: PathDocument = { ...pathOf(bench), stages: [] };
  const strip: Strip = { level_db: 0, pan: 0, mute: false, solo: false };
  const stems = [...bench.stems, { source, snapshots: [path], snapshot: 0, strip }];
  return withListening({ ...bench, stems }, { all_stems: true });
}

export function withoutStem(bench: BenchDocument, index: number): BenchDocument {
  const source = bench.stems[index]?.source;
  if (!source) return bench;
  const left = bench.stems.filter((_, i) => i !== index);
  const sent = (stem: Stem) =>
    stem.sends?.flatMap((send) =>
      send.to === index ? [] : [{ ...send, to: send.to > index ? send.to - 1 : send.to }],
    ) ?? [];
  const stems = left.map((stem) => ({
    ...stem,
    sends: sent(stem),
    snapshots: stem.snapshots.map((path) => withoutStemSounds(path, index, source)),
  }));
  const work = Math.min(bench.work > index ? bench.work - 1 : bench.work, stems.length - 1);
  const all_stems = bench.listening.all_stems && stems.length > 1;
  return withListening(chosen({ ...bench, stems, work }), { all_stems });
}

export function withStrip(bench: BenchDocument, index: number, change: Partial<Strip>): BenchDocument {
  return withStem(bench, index, (stem) => ({ ...stem, strip: { ...stem.strip, ...change } }));
}

/** Chooses the stem that is worked on. */
export function withWork(bench: BenchDocument, work: number): BenchDocument {
  return chosen({ ...bench, work });
}

function chosen(bench: BenchDocument): BenchDocument {
  return withView(bench, { stage: 0, kept: null, spotlight: null, fan: null });
}
