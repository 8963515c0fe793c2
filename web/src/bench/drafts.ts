/** Unsaved work is kept in the browser until it is saved, so that nothing is lost on reload. */
import { checkedBench } from "../core/core";
import { sentenceOf } from "../core/faults";
import type { Work } from "./store";

interface Draft extends Work {
  /** The revision that the work started from; none for a new bench. */
  revision: number | null;
  /** Whether it is only looked at or heard in another way than it was saved. */
  looked?: boolean;
}

const key = (id: number | null) => `clear-bend draft ${id ?? "new"}`;

export function keepDraft(id: number | null, draft: Draft): void {
  try {
    localStorage.setItem(key(id), JSON.stringify(draft));
  } catch {
    // A full or forbidden storage: the work stays on the page, only a reload would lose it.
  }
}

export function dropDraft(id: number | null): void {
  localStorage.removeItem(key(id));
}

/** A draft that cannot be read any more, as it was kept. */
export interface Unreadable {
  text: string;
  why: string;
}

const asideKey = (id: number | null) => `clear-bend unreadable ${id ?? "new"}`;

/** A kept draft, if it is one that the core accepts. One that it does not is put aside, where no later work takes its place. */
export function readDraft(id: number | null): Draft | null {
  const text = localStorage.getItem(key(id));
  try {
    const draft = JSON.parse(text ?? "null") as Draft | null;
    return draft && { ...draft, name: String(draft.name), document: checkedBench(draft.document) };
  } catch (error) {
    localStorage.setItem(
      asideKey(id),
      JSON.stringify({
        text: text ?? "",
        why: error instanceof SyntaxError ? "its text is damaged" : sentenceOf(error),
      } satisfies Unreadable),
    );
    localStorage.removeItem(key(id));
    return null;
  }
}

/** What has been put aside for a bench. */
export function unreadableDraft(id: number | null): Unreadable | null {
  const text = localStorage.getItem(asideKey(id));
  return text === null ? null : (JSON.parse(text) as Unreadable);
}

/** Lets go of what has been put aside. */
export function dropUnreadable(id: number | null): void {
  localStorage.removeItem(asideKey(id));
}
