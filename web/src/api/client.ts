/** The server's API: saved benches and ear maps, kept tracks, sound files. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { EarMapDocument } from "../generated/types/EarMapDocument";
import type { ResponseAbout } from "../generated/types/ResponseAbout";
import type { ResponseDocument } from "../generated/types/ResponseDocument";
import type { SourceDocument } from "../generated/types/SourceDocument";
import { inLine } from "./line";

/** A saved document in a list. */
export interface Summary {
  id: number;
  name: string;
  revision: number;
  /** One of the examples that come with the program: nothing is saved over it. */
  shipped: boolean;
  updated_at: string;
  /** What is said of a response; none of what is no response. */
  about: ResponseAbout | null;
}

/** A page of a list of documents. */
export interface Page {
  documents: Summary[];
  /** Whether there are more after these. */
  goesOn: boolean;
  /** How many there are in all, whatever they are called, and how many there may be. */
  total: number;
  most: number;
}

/** A document that is saved under a name; a save says which revision it started from. */
export interface Saved<D> extends Summary {
  document: D;
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

export type ExportPart = "before" | "after" | "matched" | "difference" | "sum";
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
  return (await answerTo<T>(method, address, body)).content;
}

/** What the server answers, and what it says beside it. */
async function answerTo<T>(method: string, address: string, body?: unknown): Promise<{ content: T; beside: Headers }> {
  const sent = body === undefined ? {} : { headers: JSON_BODY, body: JSON.stringify(body) };
  const answer = await reached(address, { method, ...sent });
  const content: unknown = answer.status === 204 ? undefined : await answer.json().catch(() => null);
  return { content: content as T, beside: answer.headers };
}

const JSON_BODY = { "content-type": "application/json" };

/** An answer of the server that is no error. */
async function reached(address: string, asked: RequestInit, away = "the server does not answer"): Promise<Response> {
  const answer = await fetch(`/api/${address}`, asked).catch(() => null);
  if (!answer) throw new ApiFault("away", away);
  if (!answer.ok) throw faultOf(answer.status, await answer.json().catch(() => null));
  return answer;
}

function faultOf(status: number, content: unknown): ApiFault {
  const fault = (content as { error?: { code: string; message: string } } | null)?.error;
  return new ApiFault(fault?.code ?? "unknown", fault?.message ?? `the server answered with status ${status}`);
}

/** A sound file, as a response that is kept. */
const bringResponse = (file: File) => sent(`responses/bring?name=${encodeURIComponent(file.name)}`, file);

/** The recording of a sweep, whose response is worked out and kept. */
const bringRecording = (file: File, sweep: SourceDocument) => sent(`responses/recorded?${new URLSearchParams({ name: file.name, sweep: JSON.stringify(sweep) })}`, file);

async function sent(address: string, file: File): Promise<Saved<ResponseDocument>> {
  const away = "the server does not answer; nothing was kept";
  const answer = await inLine((ticket) => reached(`${address}&${ticket}`, { method: "POST", body: file }, away));
  return (await answer.json().catch(() => null)) as Saved<ResponseDocument>;
}

/** Sends a file; `fetch` cannot say how far it has come. */
const bring = (file: File, onShare: (share: number) => void) => inLine((ticket) => sentWithShare(file, ticket, onShare));

function sentWithShare(file: File, ticket: string, onShare: (share: number) => void): Promise<Track> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/tracks?name=${encodeURIComponent(file.name)}&${ticket}`);
    request.responseType = "json";
    request.upload.onprogress = ({ loaded, total }) => onShare(total > 0 ? loaded / total : 0);
    request.onerror = () => reject(new ApiFault("away", "the server does not answer; nothing was kept"));
    request.onload = () =>
      request.status < 300 ? resolve(request.response as Track) : reject(faultOf(request.status, request.response));
    request.send(file);
  });
}

const soundFile = (document: BenchDocument, part: ExportPart, format: SoundFormat) => fileOf("exports", { document, part, format });

/** A response that is made here, as a WAV file that says how. */
const responseFile = (source: SourceDocument) => fileOf("responses/file", { source });

async function fileOf(address: string, asked: unknown): Promise<Blob> {
  const answer = await inLine((ticket) => reached(`${address}?${ticket}`, { method: "POST", headers: JSON_BODY, body: JSON.stringify(asked) }));
  return answer.blob();
}

function documents<D>(address: string) {
  return {
    /** The next page after a document, of what has these letters in its name, or of what of it is deleted. */
    page: async (named = "", after?: Summary, deleted = false): Promise<Page> => {
      const search = new URLSearchParams({ named, deleted: String(deleted) });
      if (after) {
        search.set("after", String(after.id));
        search.set("saved_at", after.updated_at);
      }
      const { content, beside } = await answerTo<Summary[]>("GET", `${address}?${search}`);
      const count = (name: string) => Number(beside.get(name) ?? 0);
      return {
        documents: content,
        goesOn: beside.get("x-goes-on") === "true",
        total: count("x-total"),
        most: count("x-most"),
      };
    },
    read: (id: number) => ask<Saved<D>>("GET", `${address}/${id}`),
    create: (name: string, document: D) => ask<Saved<D>>("POST", address, { name, document }),
    update: (id: number, revision: number, name: string, document?: D) =>
      ask<Saved<D>>("PUT", `${address}/${id}`, { name, revision, document }),
    remove: ({ id, revision }: Summary) => ask<void>("DELETE", `${address}/${id}?revision=${revision}`),
    restore: ({ id }: Summary) => ask<Saved<D>>("POST", `${address}/${id}/restore`),
  };
}

export const api = {
  /** Where all that is saved lies, and the command that copies it. */
  where: () => ask<{ folder: string | null; backup: string | null }>("GET", "where"),
  health: () => ask<{ status: string; database: string }>("GET", "health"),
  benches: documents<BenchDocument>("benches"),
  earMaps: documents<EarMapDocument>("ear-maps"),
  responses: documents<ResponseDocument>("responses"),
  bringResponse,
  bringRecording,
  responseFile,
  /** All tracks, or all that are deleted, and how many there may be. */
  tracks: async (deleted: boolean) => {
    const { content, beside } = await answerTo<Track[]>("GET", `tracks?deleted=${deleted}`);
    return { tracks: content, most: Number(beside.get("x-most") ?? 0) };
  },
  bring,
  removeTrack: ({ hash }: Track) => ask<void>("DELETE", `tracks/${hash}`),
  restoreTrack: ({ hash }: Track) => ask<Track>("POST", `tracks/${hash}/restore`),
  soundFile,
};
