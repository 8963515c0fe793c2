/** Opening and saving a bench: the server's copy, the draft kept in the browser, and the address of the page. */
import { api, type Saved as SavedDocument } from "../api/client";
import { checkedBench, freshBench } from "../core/core";
import { sentenceOf } from "../core/faults";
import type { BenchDocument } from "../generated/types/BenchDocument";
import { dropDraft, keepDraft, readDraft } from "./drafts";
import { type BenchState, isUnsaved, looksElse, ownWork, type Saved, sameWork, useBench, type Work } from "./store";

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
  return { id: bench.id, revision: bench.revision, shipped: bench.shipped, work };
}

/** Opens what the address names, with unsaved work on it if there is some; a fresh bench where that fails. */
export async function openAddressed(): Promise<void> {
  try {
    const id = idInAddress() ?? (readDraft(null) ? null : ((await api.benches.page()).documents[0]?.id ?? null));
    if (id === null) {
      useBench.getState().open(readDraft(null) ?? fresh(), null);
    } else {
      await openBench(id);
    }
  } catch (error) {
    useBench
      .getState()
      .open(fresh(), null, `This is a new bench, since yours could not be opened: ${sentenceOf(error)}.`);
  }
}

function fresh(): Work {
  return { name: NEW_NAME, document: freshBench() };
}

/** What is wanted last is opened, whichever answer comes last. */
let wanted = 0;

/** Opens a saved bench. */
export async function openBench(id: number): Promise<void> {
  const mine = ++wanted;
  const answer = await api.benches.read(id);
  if (mine !== wanted) return;
  const saved = toSaved(answer);
  const found = readDraft(id);
  // What was only looked at does not hide what has been saved since.
  const draft = found?.looked && found.revision !== saved.revision ? null : found;
  const kept = draft && { name: draft.name, document: draft.document };
  // Work that started from an older revision keeps that revision: saving it will say so, and lose nothing.
  useBench.getState().open(kept ?? saved.work, { ...saved, revision: draft?.revision ?? saved.revision });
  showAddress(id);
}

/** Opens a new bench. New work that was never saved is saved first, under its name: there is one place for a draft of a new bench. */
export async function openFresh(): Promise<void> {
  const mine = ++wanted;
  const state = useBench.getState();
  const isNew = !state.saved && state.history.past.length > 0;
  const left = isNew ? ownWork(state) : readDraft(null);
  if (left) {
    await api.benches.create(left.name, left.document);
    dropDraft(null);
  }
  if (mine !== wanted) return;
  useBench
    .getState()
    .open(
      fresh(),
      null,
      left ? `\u201c${left.name}\u201d was not saved yet, so it was saved among your benches.` : undefined,
    );
  showAddress(null);
}

/** Saves the work. A stale revision is refused by the server and comes out as an `ApiFault`. */
export async function save(): Promise<void> {
  const state = useBench.getState();
  const { name, document } = ownWork(state);
  // What cannot be saved is said at once, in the core's words.
  checkedBench(document);
  const { saved } = state;
  if (saved?.shipped) return saveAsNew();
  settle(
    state,
    await (saved ? api.benches.update(saved.id, saved.revision, name, document) : api.benches.create(name, document)),
  );
}

/** Saves the work as a bench of its own, next to the one that it came from. */
export async function saveAsNew(): Promise<void> {
  const state = useBench.getState();
  const { name, document } = ownWork(state);
  checkedBench(document);
  const isNamed = name !== state.saved?.work.name;
  settle(state, await api.benches.create(isNamed ? name : copyOf(name), document));
}

/** Goes back to what is saved, as a step that can be undone. */
export function backToSaved(): void {
  const { saved, edit, rename } = useBench.getState();
  if (!saved) return;
  edit("Back to what is saved", () => saved.work.document);
  if (useBench.getState().history.present.name !== saved.work.name) rename(saved.work.name);
}

/** "Name (copy)", then "Name (copy 2)". */
function copyOf(name: string): string {
  const copied = /^(.*) \(copy(?: (\d+))?\)$/.exec(name);
  const plain = (copied?.[1] ?? name).slice(0, 105);
  return copied ? `${plain} (copy ${Number(copied[2] ?? 1) + 1})` : `${plain} (copy)`;
}

/** Gives up the work and opens what is saved. */
export async function openSavedInstead(): Promise<void> {
  const { saved } = useBench.getState();
  if (!saved) return;
  const mine = ++wanted;
  const answer = await api.benches.read(saved.id);
  if (mine !== wanted) return;
  const current = toSaved(answer);
  dropDraft(saved.id);
  useBench.getState().open(current.work, current);
}

/** Takes in what the server has saved of the work as it was `then`; another bench may be open by now. */
function settle(then: BenchState, answer: SavedDocument<BenchDocument>): void {
  const from = then.saved?.id ?? null;
  const state = useBench.getState();
  if (state.opened !== then.opened) {
    // The draft that was left behind: it goes if it is what was saved; what was done to it since started from that.
    const draft = readDraft(from);
    if (draft && sameWork(draft, ownWork(then))) dropDraft(from);
    else if (draft && from === answer.id) keepDraft(from, { ...draft, revision: answer.revision });
    return;
  }
  dropDraft(from);
  // The server may write a name in another way, unless it has been changed meanwhile.
  if (state.history.present.name === then.history.present.name && answer.name !== then.history.present.name) {
    state.rename(answer.name);
  }
  state.markSaved(toSaved(answer));
  showAddress(answer.id);
}

/** Keeps a draft of unsaved work whenever it changes. */
export function keepDrafts(): void {
  useBench.subscribe((state) => {
    if (!state.ready) return;
    const id = state.saved?.id ?? null;
    const unsaved = state.saved ? isUnsaved(state) : state.history.past.length > 0;
    if (unsaved || (state.saved && looksElse(state))) {
      keepDraft(id, {
        ...ownWork(state),
        revision: state.saved?.revision ?? null,
        ...(unsaved ? {} : { looked: true }),
      });
    } else {
      dropDraft(id);
    }
  });
}
