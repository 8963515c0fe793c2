/** The sounds that stages take beside the passage, on their way from the document to all who play or measure. */
import type { PathDocument } from "../generated/types/PathDocument";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { StageDocument } from "../generated/types/StageDocument";

/** A sound in a slot of an effect. */
export interface SoundWanted {
  effect: string;
  slot: string;
  sound: SourceDocument;
}

/** The same with its samples, as they are laid beside the passage: one or two channels. */
export interface LaidSound extends SoundWanted {
  channels: Float32Array[];
}

/** The sounds of a stage. */
export function soundsOf({ effect, sounds }: StageDocument): SoundWanted[] {
  return Object.entries(sounds ?? {}).flatMap(([slot, sound]) => (sound ? [{ effect, slot, sound }] : []));
}

/** What a laid sound is found by. */
export function soundName({ effect, slot, sound }: SoundWanted): string {
  return `${effect} ${slot} ${JSON.stringify(sound)}`;
}

/** The sounds of some paths, each once, what others are made of first. */
export function soundsOfPaths(paths: PathDocument[], stems: { path: PathDocument }[]): SoundWanted[] {
  const all = paths.flatMap(({ stages }) => stages.flatMap(soundsOf));
  const behind = all.flatMap(({ sound }) => throughOf(sound, stems) ?? []);
  const before = behind.flatMap((path) => withStemsBefore(path).stages.flatMap(soundsOf));
  const ordered = [...before, ...all].sort((a, b) => Number(a.sound.after ?? false) - Number(b.sound.after ?? false));
  return [...new Map(ordered.map((wanted) => [soundName(wanted), wanted])).values()];
}

/** A path as it is heard where it is a sound of another one: stems that it takes are heard before their paths. */
export function withStemsBefore(path: PathDocument): PathDocument {
  const before = (sounds: StageDocument["sounds"]) =>
    Object.fromEntries(
      Object.entries(sounds ?? {}).map(([slot, sound]) => [slot, sound && { ...sound, after: undefined }]),
    );
  return { ...path, stages: path.stages.map((stage) => ({ ...stage, sounds: before(stage.sounds) })) };
}

/** The path that a sound runs through before it is heard; none where it is heard as it is. */
export function throughOf(sound: SourceDocument, stems: { path: PathDocument }[]): PathDocument | undefined {
  return sound.after && sound.stem !== undefined ? stems[sound.stem]?.path : undefined;
}

/** Where a sound comes from: a stem is heard by its source. */
export function originOf(sound: SourceDocument, stems: { source: SourceDocument }[]): SourceDocument {
  return (sound.stem === undefined ? undefined : stems[sound.stem]?.source) ?? sound;
}
