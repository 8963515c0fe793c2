/** The sources that can be chosen, as one list with groups. */
import { useQuery } from "@tanstack/react-query";

import { api, type Track } from "../../api/client";
import { catalogue, signalOf } from "../../core/core";
import type { SourceDocument } from "../../generated/types/SourceDocument";

const TRACK = "track:";
/** What the value of a stem begins with, before and after its path. */
export const STEM = "stem:";
export const STEM_AFTER = "stem-after:";

/** Asks for the tracks that the server keeps, or for those that are deleted. */
const asked = (deleted: boolean) => ({ queryKey: ["tracks", deleted], queryFn: () => api.tracks(deleted), retry: 1 });

/** The tracks that the server keeps. */
export function useTracks() {
  return useQuery({ ...asked(false), select: ({ tracks }) => tracks });
}

/** Those that are deleted and can be taken back. */
export function useDeletedTracks(wanted: boolean) {
  return useQuery({ ...asked(true), enabled: wanted, select: ({ tracks }) => tracks });
}

/** How many tracks the server keeps at most. */
export function useMostTracks() {
  return useQuery({ ...asked(false), select: ({ most }) => most }).data;
}

/** The value of a source in a list of choices. */
export function valueOfSource(source: SourceDocument): string {
  if (source.stem !== undefined) return (source.after ? STEM_AFTER : STEM) + source.stem;
  return source.track ? TRACK + source.track : source.kind;
}

/** The source of a value; a track goes by its name as well, so that it can be asked for where it is not kept. */
export function sourceOf(value: string, tracks?: Track[]): SourceDocument {
  if (value.startsWith(STEM)) return stemSource(Number(value.slice(STEM.length)));
  if (value.startsWith(STEM_AFTER)) return { ...stemSource(Number(value.slice(STEM_AFTER.length))), after: true };
  if (!value.startsWith(TRACK)) return { kind: value };
  const hash = value.slice(TRACK.length);
  return trackSource(hash, tracks?.find((track) => track.hash === hash)?.name);
}

/** Another stem of the bench, by its place. */
function stemSource(place: number): SourceDocument {
  return { kind: "stem", stem: place };
}

export function trackSource(hash: string, name?: string): SourceDocument {
  return { kind: "track", track: hash, ...(name ? { name } : {}) };
}

export function nameOf(source: SourceDocument, tracks: Track[] | undefined): string {
  if (!source.track) return signalOf(source.kind)?.label ?? source.kind;
  return tracks?.find((track) => track.hash === source.track)?.name ?? source.name ?? "A kept track";
}

/** Groups for a select; a track that is in use but not in the list is named all the same. */
export function sourceGroups(tracks: Track[] | undefined, used?: SourceDocument) {
  const signals = (family: string) =>
    catalogue.signals.filter((s) => s.family === family).map((s) => ({ value: s.id, label: s.label }));
  const kept = (tracks ?? []).map((track) => ({ value: TRACK + track.hash, label: track.name }));
  if (used?.track && !kept.some(({ value }) => value === valueOfSource(used))) {
    kept.push({ value: valueOfSource(used), label: nameOf(used, tracks) });
  }
  return [
    { group: "Pellow Slip", items: signals("slip") },
    { group: "Tracks", items: kept },
    { group: "Test signals", items: signals("test") },
    { group: "Responses", items: signals("response") },
  ].filter(({ items }) => items.length > 0);
}
