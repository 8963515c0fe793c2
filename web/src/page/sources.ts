/** The sources that can be chosen, as one list with groups. */
import { useQuery } from "@tanstack/react-query";

import { api, type Track } from "../api/client";
import { catalogue, signalOf } from "../core/core";
import type { SourceDocument } from "../generated/types/SourceDocument";

const TRACK = "track:";

/** The tracks that the server keeps. */
export function useTracks() {
  return useQuery({ queryKey: ["tracks"], queryFn: api.tracks, retry: 1 });
}

export function keyOf(source: SourceDocument): string {
  return source.track ? TRACK + source.track : source.kind;
}

export function sourceOf(key: string): SourceDocument {
  return key.startsWith(TRACK) ? trackSource(key.slice(TRACK.length)) : { kind: key, params: {} };
}

export function trackSource(hash: string): SourceDocument {
  return { kind: "track", track: hash, params: {} };
}

export function nameOf(source: SourceDocument, tracks: Track[] | undefined): string {
  if (!source.track) return signalOf(source.kind)?.label ?? source.kind;
  return tracks?.find((track) => track.hash === source.track)?.name ?? "A kept track";
}

/** Groups for a select; a track that is in use but not in the list is named all the same. */
export function sourceGroups(tracks: Track[] | undefined, used?: SourceDocument) {
  const signals = (family: string) =>
    catalogue.signals.filter((s) => s.family === family).map((s) => ({ value: s.id, label: s.label }));
  const kept = (tracks ?? []).map((track) => ({ value: TRACK + track.hash, label: track.name }));
  if (used?.track && !kept.some(({ value }) => value === keyOf(used))) {
    kept.push({ value: keyOf(used), label: nameOf(used, tracks) });
  }
  return [
    { group: "Pellow Slip", items: signals("slip") },
    { group: "Tracks", items: kept },
    { group: "Test signals", items: signals("test") },
  ].filter(({ items }) => items.length > 0);
}
