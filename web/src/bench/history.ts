/** Undo without limit, with names, as pure functions. */

export interface Step<T> {
  /** What was done, e.g. "Threshold −24.0 dBFS". */
  label: string;
  /** The state before it was done. */
  before: T;
  /** Steps of one drag share a key and are one step. */
  mergeKey: string | null;
  at: number;
}

export interface History<T> {
  present: T;
  past: Step<T>[];
  future: Step<T>[];
}

/** Two moves of the same control closer together than this are one step, ms. */
const MERGE_MS = 900;

export function begin<T>(present: T): History<T> {
  return { present, past: [], future: [] };
}

export function act<T>(h: History<T>, present: T, label: string, mergeKey: string | null, now: number): History<T> {
  const last = h.past.at(-1);
  const merges = last && mergeKey !== null && last.mergeKey === mergeKey && now - last.at < MERGE_MS;
  const step = { label, before: merges ? last.before : h.present, mergeKey, at: now };
  return { present, past: [...(merges ? h.past.slice(0, -1) : h.past), step], future: [] };
}

/** A change that is not worth a step of its own, such as which row is open. */
export function drift<T>(h: History<T>, present: T): History<T> {
  return { ...h, present };
}

export function undo<T>(h: History<T>): History<T> {
  const step = h.past.at(-1);
  if (!step) return h;
  const undone = { ...step, before: h.present, mergeKey: null };
  return { present: step.before, past: h.past.slice(0, -1), future: [...h.future, undone] };
}

export function redo<T>(h: History<T>): History<T> {
  const step = h.future.at(-1);
  if (!step) return h;
  const done = { ...step, before: h.present, mergeKey: null };
  return { present: step.before, past: [...h.past, done], future: h.future.slice(0, -1) };
}
