/** The one store of the bench: its document with undo, and what of it is saved. */
import { useContext } from "react";
import { create } from "zustand";

import type { BenchDocument } from "../generated/types/BenchDocument";
import type { StageDocument } from "../generated/types/StageDocument";
import { IsBeside } from "../measuring/measured";
import { useLooking } from "./analysing";
import { besideOf } from "./beside";
import { pathOf, picturedStage } from "./edits";
import { type Guided, givenBack, standsIn } from "./guided";
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
  /** An example that comes with the program: what is made of it is saved as a bench of one's own. */
  shipped: boolean;
  work: Work;
}

export interface BenchState {
  history: History<Work>;
  saved: Saved | null;
  /** The stage that is being explained in order, with its own settings; none while nothing is. */
  guided: Guided | null;
  /** Counts what has been opened: an answer that was asked for another bench finds another number. */
  opened: number;
  /** Whether a bench has been opened yet. */
  ready: boolean;
  /** What the person should know about how it was opened. */
  notice: string | null;
  open(work: Work, saved: Saved | null, notice?: string): void;
  markSaved(saved: Saved): void;
  guide(guided: Guided | null): void;
  edit(label: string, change: (document: BenchDocument) => BenchDocument, mergeKey?: string): void;
  look(change: (document: BenchDocument) => BenchDocument): void;
  rename(name: string): void;
  undo(): void;
  redo(): void;
}

export const useBench = create<BenchState>()((set) => ({
  history: begin<Work>({ name: "", document: undefined as unknown as BenchDocument }),
  saved: null,
  guided: null,
  opened: 0,
  ready: false,
  notice: null,
  open: (work, saved, notice) =>
    set(({ opened }) => ({
      history: begin(work),
      saved,
      guided: null,
      opened: opened + 1,
      ready: true,
      notice: notice ?? null,
    })),
  markSaved: (saved) => set({ saved }),
  guide: (guided) => set({ guided }),
  edit: (label, change, mergeKey) =>
    set(({ history, guided }) => {
      const before = history.present.document;
      const changed = change(before);
      // What moves or goes while it is being explained has its own settings again first.
      const stays = !guided || standsIn(guided, before, changed);
      const document = stays ? changed : change(givenBack(before, guided));
      const next = act(history, { ...history.present, document }, label, mergeKey ?? null, performance.now());
      return { history: next, guided: stays ? guided : null };
    }),
  look: (change) =>
    set(({ history }) => ({
      history: drift(history, { ...history.present, document: change(history.present.document) }),
    })),
  rename: (name) =>
    set(({ history }) => ({
      history: act(history, { ...history.present, name }, "Name", "name", performance.now()),
    })),
  undo: () => set(({ history }) => ({ history: heardAs(undo(history), history.present) })),
  redo: () => set(({ history }) => ({ history: heardAs(redo(history), history.present) })),
}));

/** What is undone is not what one listens to. */
function heardAs(history: History<Work>, now: Work): History<Work> {
  const { listening } = now.document;
  return drift(history, { ...history.present, document: { ...history.present.document, listening } });
}

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

/** The place and the stage of the path that the picture is of, and whether it can be taken hold of there: beside it cannot. */
export function usePicturedStage(): { index: number; stage: StageDocument | undefined; held: boolean } {
  const beside = useContext(IsBeside);
  const wanted = useLooking((l) => (beside ? l.beside : null));
  const index = usePart((d) => picturedStage(d.view));
  const own = usePart((d) => pathOf(d).stages[index]);
  const theirs = usePart((d) => {
    const other = besideOf(d, wanted);
    return other?.path.stages[other.pictured];
  });
  return beside ? { index, stage: theirs, held: false } : { index, stage: own, held: true };
}

/** The work as it is kept and saved: what is at a plain setting only to be explained has its own settings. */
export function ownWork({ history, guided }: Pick<BenchState, "history" | "guided">): Work {
  const { name, document } = history.present;
  return { name, document: givenBack(document, guided) };
}

/** Whether there is work that the server does not have. What one looks at and hears is none. */
export function isUnsaved(state: Pick<BenchState, "history" | "saved" | "guided">): boolean {
  return !state.saved || !sameWork(state.saved.work, ownWork(state));
}

/** Whether it is looked at or heard in another way than it was saved. */
export function looksElse(state: Pick<BenchState, "history" | "saved" | "guided">): boolean {
  const [then, now] = [state.saved?.work.document, ownWork(state).document];
  return then !== now && inOrder(then) !== inOrder(now);
}

/** Documents are compared as text in one order of names, since the database keeps no order, and without what is empty. */
export function sameWork(a: Work, b: Work): boolean {
  return a.name === b.name && (a.document === b.document || ordered(a.document) === ordered(b.document));
}

const texts = new WeakMap<BenchDocument, string>();

function ordered(document: BenchDocument): string {
  const text = texts.get(document) ?? inOrder(made(document));
  texts.set(document, text);
  return text;
}

/** What has been made, without what is chosen of it, looked at and heard. */
function made({ stems, region, play, reference }: BenchDocument): object {
  return {
    stems: stems.map(({ source, snapshots, strip, sends }) => ({ source, snapshots, strip, sends: sends ?? [] })),
    region,
    play,
    reference,
  };
}

function named(fields: object): object | undefined {
  const sorted = Object.entries(fields).sort(([a], [b]) => (a < b ? -1 : 1));
  return sorted.length > 0 ? Object.fromEntries(sorted) : undefined;
}

function inOrder(value: unknown): string {
  return JSON.stringify(value, (_, v: unknown) => (v && typeof v === "object" && !Array.isArray(v) ? named(v) : v));
}
