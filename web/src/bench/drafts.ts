/** Unsaved work is kept in the browser until it is saved, so that nothing is lost on reload. */
import { checkedBench } from "../core/core";
import type { Work } from "./store";

interface Draft extends Work {
  /** The revision that the work started from; none for a new bench. */
  revision: number | null;
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

/** A kept draft, if it is one that the core accepts. */
export function readDraft(id: number | null): Draft | null {
  try {
    const draft = JSON.parse(localStorage.getItem(key(id)) ?? "null") as Draft | null;
    return draft && { ...draft, name: String(draft.name), document: checkedBench(draft.document) };
  } catch {
    return null;
  }
}
