/** The server's API: saved benches and ear maps, kept tracks, sound files. */
import type { BenchDocument } from "../generated/types/BenchDocument";
import type { EarMapDocument } from "../generated/types/EarMapDocument";
import type { ResponseDocument } from "../generated/types/ResponseDocument";
import type { SourceDocument } from "../generated/types/SourceDocument";
import {
  ANSWERS,
  type ExportPart,
  type Fault,
  type Health,
  type Saved as SavedAnswer,
  type SoundFormat,
  type Summary,
  type Track,
  type Whereabouts,
} from "./answers";
import { noteFault } from "../core/happened";
import { inLine } from "./line";

export type { ExportPart, SoundFormat, Summary, Track };

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
export interface Saved<D> extends Omit<SavedAnswer, "document"> {
  document: D;
}

/** An answer of the server that is an error, that does not fit (codes "no-json" and "version"), or no answer at all (code "away"). */
export class ApiFault extends Error {
  readonly code: string;

  constructor(code: string, message: string) {
    super(message);
    this.code = code;
    noteFault(`server, ${code}: ${message}`);
  }
}

async function ask<T>(method: string, address: string, body?: unknown): Promise<T> {
  return (await answerTo<T>(method, address, body)).content;
}

/** What the server answers, and what it says beside it. */
async function answerTo<T>(method: string, address: string, body?: unknown): Promise<{ content: T; beside: Headers }> {
  const sent = body === undefined ? {} : { headers: JSON_BODY, body: JSON.stringify(body) };
  const answer = await reached(address, { method, ...sent });
  return { content: await contentOf<T>(answer, address), beside: answer.headers };
}

/** What stands in an answer; nothing where it says that there is nothing. */
async function contentOf<T>(answer: Response, address: string): Promise<T> {
  if (answer.status === 204) return undefined as T;
  try {
    return (await answer.json()) as T;
  } catch {
    throw noJson(address);
  }
}

const noJson = (address: string) =>
  new ApiFault("no-json", `the answer of the server to /api/${address.split("?")[0]} cannot be read`);

/** Whether an answer was made by a server that answers as this page expects. */
function checkVersion(number: string | null): void {
  if (number !== String(ANSWERS))
    throw new ApiFault(
      "version",
      "the page and the server are of different versions; load the page anew (your work is kept in this browser)",
    );
}

const JSON_BODY = { "content-type": "application/json" };

/** An answer of the server that is no error. */
async function reached(address: string, asked: RequestInit, away = "the server does not answer"): Promise<Response> {
  const answer = await fetch(`/api/${address}`, asked).catch(() => null);
  if (!answer) throw new ApiFault("away", away);
  if (!answer.ok) throw faultOf(answer.status, await answer.json().catch(() => null));
  checkVersion(answer.headers.get("x-answers"));
  return answer;
}

function faultOf(status: number, content: unknown): ApiFault {
  const fault = (content as Partial<Fault> | null)?.error;
  return new ApiFault(fault?.code ?? "unknown", fault?.message ?? `the server answered with status ${status}`);
}

/** A sound file, as a response that is kept. */
const bringResponse = (file: File) => sent(`responses/bring?name=${encodeURIComponent(file.name)}`, file);

/** The recording of a sweep, whose response is worked out and kept. */
const bringRecording = (file: File, sweep: SourceDocument) =>
  sent(`responses/recorded?${new URLSearchParams({ name: file.name, sweep: JSON.stringify(sweep) })}`, file);

async function sent(address: string, file: File): Promise<Saved<ResponseDocument>> {
  const away = "the server does not answer; nothing was kept";
  const answer = await inLine((ticket) => reached(`${address}&${ticket}`, { method: "POST", body: file }, away));
  return contentOf<Saved<ResponseDocument>>(answer, address);
}

/** Sends a file; `fetch` cannot say how far it has come. */
const bring = (file: File, onShare: (share: number) => void) =>
  inLine((ticket) => sentWithShare(file, ticket, onShare));

function sentWithShare(file: File, ticket: string, onShare: (share: number) => void): Promise<Track> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/tracks?name=${encodeURIComponent(file.name)}&${ticket}`);
    request.responseType = "json";
    request.upload.onprogress = ({ loaded, total }) => onShare(total > 0 ? loaded / total : 0);
    request.onerror = () => reject(new ApiFault("away", "the server does not answer; nothing was kept"));
    request.onload = () => {
      if (request.status >= 300) return reject(faultOf(request.status, request.response));
      try {
        checkVersion(request.getResponseHeader("x-answers"));
        // What is no JSON is null there.
        if (request.response === null) throw noJson("tracks");
        resolve(request.response as Track);
      } catch (error) {
        reject(error as ApiFault);
      }
    };
    request.send(file);
  });
}

const soundFile = (document: BenchDocument, part: ExportPart, format: SoundFormat) =>
  fileOf("exports", { document, part, format });

/** A response that is made here, as a WAV file that says how. */
const responseFile = (source: SourceDocument) => fileOf("responses/file", { source });

async function fileOf(address: string, asked: unknown): Promise<Blob> {
  const answer = await inLine((ticket) =>
    reached(`${address}?${ticket}`, { method: "POST", headers: JSON_BODY, body: JSON.stringify(asked) }),
  );
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
  where: () => ask<Whereabouts>("GET", "where"),
  health: () => ask<Health>("GET", "health"),
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
