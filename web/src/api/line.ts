/** The server's line: who asks for long work waits there, and is told how many come first. */
import { create } from "zustand";

import type { PlaceInLine } from "./answers";

/** Places are asked for so often, ms. */
const ASKED_EVERY_MS = 1000;

/** How many come before what waits longest here; none where nothing waits. */
export const useLine = create<{ ahead: number | null }>()(() => ({ ahead: null }));

const waiting = new Map<string, number | null>();

function tell(): void {
  const places = [...waiting.values()].filter((ahead) => ahead !== null);
  useLine.setState({ ahead: places.length > 0 ? Math.max(...places) : null });
}

/** Asks with a ticket, by which the place in the line is found until the answer is there. */
export async function inLine<T>(ask: (ticket: string) => Promise<T>): Promise<T> {
  const ticket = crypto.randomUUID();
  waiting.set(ticket, null);
  const timer = setInterval(() => void look(ticket), ASKED_EVERY_MS);
  try {
    return await ask(`ticket=${ticket}`);
  } finally {
    clearInterval(timer);
    waiting.delete(ticket);
    tell();
  }
}

async function look(ticket: string): Promise<void> {
  const answer = await fetch(`/api/line/${ticket}`).catch(() => null);
  // A place that cannot be read is none: the answer itself will come, or say why not.
  const place = (await answer?.json().catch(() => null)) as Partial<PlaceInLine> | null;
  if (!waiting.has(ticket)) return;
  waiting.set(ticket, place?.ahead ?? null);
  tell();
}
