/** The one store of the bench: its document with undo, and what of it is saved. */
import { create } from "zustand";

import type { BenchDocument } from "../generated/types/BenchDocument";
import type { StageDocument } from "../generated/types/StageDocument";
import { pathOf, picturedStage } from "./edits";
import { act, begin, drift, type History, redo, undo } from "./history";

/** What can be undone. */
export interface Work {
  name: string;
  document: BenchDocument;
}

/** The bench as the server has it; none for a new one. */
export interface Saved {
  id: number;
  revision: number;
  work: Work;
}

interface BenchState {
  history: History<Work>;
  saved: Saved | null;
  /** Whether a bench has been opened yet. */
  ready: boolean;
  /** What the person should know about how it was opened. */
  notice: string | null;
  open(work: Work, saved: Saved | null, notice?: string): void;
  markSaved(saved: Saved): void;
  edit(label: string, change: (document: BenchDocument) => BenchDocument, mergeKey?: string): void;
  look(change: (document: BenchDocument) => BenchDocument): void;
  rename(name: string): void;
  undo(): void;
  redo(): void;
}

export const useBench = create<BenchState>()((set) => ({
  history: begin<Work>({ name: "", document: undefined as unknown as BenchDocument }),
  saved: null,
  ready: false,
  notice: null,
  open: (work, saved, notice) => set({ history: begin(work), saved, ready: true, notice: notice ?? null }),
  markSaved: (saved) => set({ saved }),
  edit: (label, change, mergeKey) =>
    set(({ history }) => {
      const document = change(history.present.document);
      return { history: act(history, { ...history.present, document }, label, mergeKey ?? null, performance.now()) };
    }),
  look: (change) =>
    set(({ history }) => ({
      history: drift(history, { ...history.present, document: change(history.present.document) }),
    })),
  rename: (name) =>
    set(({ history }) => ({
      history: act(history, { ...history.present, name }, "Name", "name", performance.now()),
    })),
  undo: () => set(({ history }) => ({ history: undo(history) })),
  redo: () => set(({ history }) => ({ history: redo(history) })),
}));

/**
 * A part of the document that is being worked on. What asks for a part is drawn anew only when that part
 * changes: while a control moves, the pictures come first.
 */
export function usePart<T>(part: (document: BenchDocument) => T): T {
  return useBench((s) => part(s.history.present.document));
}

/** The stage whose parameters are shown. */
export function useChosenStage(): StageDocument | undefined {
  return usePart((d) => pathOf(d).stages[d.view.stage]);
}

/** The place and the stage of the path that the picture is of. */
export function usePicturedStage(): { index: number; stage: StageDocument | undefined } {
  const index = usePart((d) => picturedStage(d.view));
  const stage = usePart((d) => pathOf(d).stages[index]);
  return { index, stage };
}

/** Whether there is work that the server does not have. */
export function isUnsaved(state: Pick<BenchState, "history" | "saved">): boolean {
  const { saved, history } = state;
  return !saved || saved.work.name !== history.present.name || !sameDocument(saved.work, history.present);
}

/** Documents are compared as text in one order of keys, since the database keeps no order. */
function sameDocument(a: Work, b: Work): boolean {
  return a.document === b.document || ordered(a.document) === ordered(b.document);
}

const texts = new WeakMap<BenchDocument, string>();

function ordered(document: BenchDocument): string {
  const text = texts.get(document) ?? inOrder(document);
  texts.set(document, text);
  return text;
}

function inOrder(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) =>
    v && typeof v === "object" && !Array.isArray(v)
      ? Object.fromEntries(Object.entries(v).sort(([a], [b]) => (a < b ? -1 : 1)))
      : v,
  );
}
