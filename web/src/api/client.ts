/** The server's API: saved benches. */
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
  const content = (await answer.json().catch(() => null)) as { error?: { code: string; message: string } } | null;
  if (!answer.ok) {
    const fault = content?.error;
    throw new ApiFault(fault?.code ?? "unknown", fault?.message ?? `the server answered with status ${answer.status}`);
  }
  return content as T;
}

export const api = {
  health: () => ask<{ status: string; database: string }>("GET", "health"),
  list: () => ask<BenchSummary[]>("GET", "benches"),
  read: (id: number) => ask<SavedBench>("GET", `benches/${id}`),
  create: (name: string, document: BenchDocument) => ask<SavedBench>("POST", "benches", { name, document }),
  update: (id: number, revision: number, name: string, document?: BenchDocument) =>
    ask<SavedBench>("PUT", `benches/${id}`, { name, revision, document }),
  remove: (id: number, revision: number) => ask<void>("DELETE", `benches/${id}?revision=${revision}`),
  restore: (id: number) => ask<SavedBench>("POST", `benches/${id}/restore`),
};
