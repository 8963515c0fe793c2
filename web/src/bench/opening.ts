/** Opening and saving a bench: the server's copy, the draft kept in the browser, and the address of the page. */
import { api, type Saved as SavedDocument } from "../api/client";
import { checkedBench, freshBench } from "../core/core";
import { sentenceOf } from "../core/faults";
import type { BenchDocument } from "../generated/types/BenchDocument";
import { dropDraft, keepDraft, readDraft } from "./drafts";
import { isUnsaved, type Saved, useBench, type Work } from "./store";

const NEW_NAME = "Untitled bench";

function idInAddress(): number | null {
  const id = /^\/bench\/(\d+)$/.exec(location.pathname)?.[1];
  return id === undefined ? null : Number(id);
}

function showAddress(id: number | null): void {
  const address = id === null ? "/" : `/bench/${id}`;
  if (location.pathname !== address) history.pushState(null, "", address);
}

function toSaved(bench: SavedDocument<BenchDocument>): Saved {
  const work: Work = { name: bench.name, document: checkedBench(bench.document) };
  return { id: bench.id, revision: bench.revision, work };
}

/** Opens what the address names, with unsaved work on it if there is some; a fresh bench where that fails. */
export async function openAddressed(): Promise<void> {
  try {
    const id = idInAddress() ?? (readDraft(null) ? null : ((await api.benches.list())[0]?.id ?? null));
    if (id === null) {
      useBench.getState().open(readDraft(null) ?? fresh(), null);
    } else {
      await openBench(id);
    }
  } catch (error) {
    useBench.getState().open(fresh(), null, `This is a new bench, since yours could not be opened: ${sentenceOf(error)}.`);
  }
}

function fresh(): Work {
  return { name: NEW_NAME, document: freshBench() };
}

/** Opens a saved bench. */
export async function openBench(id: number): Promise<void> {
  const saved = toSaved(await api.benches.read(id));
  const draft = readDraft(id);
  const kept = draft && { name: draft.name, document: draft.document };
  // Work that started from an older revision keeps that revision: saving it will say so, and lose nothing.
  useBench.getState().open(kept ?? saved.work, { ...saved, revision: draft?.revision ?? saved.revision });
  showAddress(id);
}

export function openFresh(): void {
  useBench.getState().open(fresh(), null);
  showAddress(null);
}

/** Saves the work. A stale revision is refused by the server and comes out as an `ApiFault`. */
export async function save(): Promise<void> {
  const { saved, history } = useBench.getState();
  const { name, document } = history.present;
  const answer = saved ? await api.benches.update(saved.id, saved.revision, name, document) : await api.benches.create(name, document);
  settle(saved?.id ?? null, answer);
}

/** Saves the work as a bench of its own, next to the one that it came from. */
export async function saveAsNew(): Promise<void> {
  const { saved, history } = useBench.getState();
  const { name, document } = history.present;
  settle(saved?.id ?? null, await api.benches.create(`${name} (copy)`, document));
}

/** Gives up the work and opens what is saved. */
export async function openSavedInstead(): Promise<void> {
  const { saved } = useBench.getState();
  if (!saved) return;
  const current = toSaved(await api.benches.read(saved.id));
  dropDraft(saved.id);
  useBench.getState().open(current.work, current);
}

function settle(from: number | null, answer: SavedDocument<BenchDocument>): void {
  const state = useBench.getState();
  dropDraft(from);
  if (state.history.present.name !== answer.name) state.rename(answer.name);
  state.markSaved(toSaved(answer));
  showAddress(answer.id);
}

/** Keeps a draft of unsaved work whenever it changes. */
export function keepDrafts(): void {
  useBench.subscribe((state) => {
    if (!state.ready) return;
    const id = state.saved?.id ?? null;
    if (state.saved ? isUnsaved(state) : state.history.past.length > 0) {
      keepDraft(id, { ...state.history.present, revision: state.saved?.revision ?? null });
    } else {
      dropDraft(id);
    }
  });
}
