/** The server's API: saved benches, kept tracks, sound files. */
import type { BenchDocument } from "../generated/types/BenchDocument";

export interface BenchSummary {
  id: number;
  name: string;
  revision: number;
  updated_at: string;
}

export interface SavedBench extends BenchSummary {
  document: BenchDocument;
}

/** A track that somebody has brought. */
export interface Track {
  hash: string;
  name: string;
  rate_hz: number;
  channels: number;
  /** Samples per channel at the rate of the benches. */
  frames: number;
  peak_dbfs: number | null;
  loudness_lufs: number | null;
  created_at: string;
}

export type ExportPart = "before" | "after" | "difference";
export type SoundFormat = "wav16" | "wav24" | "wav32" | "flac16" | "flac24";

/** An answer of the server that is an error, or no answer at all (code "away"). */
export class ApiFault extends Error {
  readonly code: string;

  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

async function ask<T>(method: string, address: string, body?: unknown): Promise<T> {
  let answer: Response;
  try {
    answer = await fetch(`/api/${address}`, {
      method,
      headers: body === undefined ? {} : { "content-type": "application/json" },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
  } catch {
    throw new ApiFault("away", "the server does not answer");
  }
  if (answer.status === 204) return undefined as T;
  const content: unknown = await answer.json().catch(() => null);
  if (!answer.ok) throw faultOf(answer.status, content);
  return content as T;
}

function faultOf(status: number, content: unknown): ApiFault {
  const fault = (content as { error?: { code: string; message: string } } | null)?.error;
  return new ApiFault(fault?.code ?? "unknown", fault?.message ?? `the server answered with status ${status}`);
}

/** Sends a file; `fetch` cannot say how far it has come. */
function bring(file: File, onShare: (share: number) => void): Promise<Track> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/tracks?name=${encodeURIComponent(file.name)}`);
    request.responseType = "json";
    request.upload.onprogress = ({ loaded, total }) => onShare(total > 0 ? loaded / total : 0);
    request.onerror = () => reject(new ApiFault("away", "the server does not answer; nothing was kept"));
    request.onload = () =>
      request.status < 300 ? resolve(request.response as Track) : reject(faultOf(request.status, request.response));
    request.send(file);
  });
}

async function soundFile(document: BenchDocument, part: ExportPart, format: SoundFormat): Promise<Blob> {
  const answer = await fetch("/api/exports", {
    method: "POST",
    headers: { "content-type": "application/json" },
    body: JSON.stringify({ document, part, format }),
  }).catch(() => null);
  if (!answer) throw new ApiFault("away", "the server does not answer");
  if (!answer.ok) throw faultOf(answer.status, await answer.json().catch(() => null));
  return answer.blob();
}

export const api = {
  health: () => ask<{ status: string; database: string }>("GET", "health"),
  list: () => ask<BenchSummary[]>("GET", "benches"),
  read: (id: number) => ask<SavedBench>("GET", `benches/${id}`),
  create: (name: string, document: BenchDocument) => ask<SavedBench>("POST", "benches", { name, document }),
  update: (id: number, revision: number, name: string, document?: BenchDocument) =>
    ask<SavedBench>("PUT", `benches/${id}`, { name, revision, document }),
  remove: (id: number, revision: number) => ask<void>("DELETE", `benches/${id}?revision=${revision}`),
  tracks: () => ask<Track[]>("GET", "tracks"),
  bring,
  removeTrack: (hash: string) => ask<void>("DELETE", `tracks/${hash}`),
  restoreTrack: (hash: string) => ask<Track>("POST", `tracks/${hash}/restore`),
  soundFile,
  restore: (id: number) => ask<SavedBench>("POST", `benches/${id}/restore`),
};
