/** The server's line: who asks for long work waits there, and is told how many come first. */
import { create } from "zustand";

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
  const place: unknown = await answer?.json().catch(() => null);
  if (!waiting.has(ticket)) return;
  const ahead = place && typeof place === "object" && "ahead" in place ? place.ahead : null;
  waiting.set(ticket, typeof ahead === "number" ? ahead : null);
  tell();
}
