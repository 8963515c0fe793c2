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

/** The sounds of some paths, each once. */
export function soundsOfPaths(paths: PathDocument[]): SoundWanted[] {
  const all = paths.flatMap(({ stages }) => stages.flatMap(soundsOf));
  return [...new Map(all.map((wanted) => [soundName(wanted), wanted])).values()];
}

/** Where a sound comes from: a stem is heard by its source. */
export function originOf(sound: SourceDocument, stems: { source: SourceDocument }[]): SourceDocument {
  return (sound.stem === undefined ? undefined : stems[sound.stem]?.source) ?? sound;
}
