import { beforeAll, beforeEach, expect, test } from "vitest";

import { checkedBench } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";
import { benchWith } from "../testing/core";
import { dropDraft, dropUnreadable, keepDraft, readDraft, unreadableDraft } from "./drafts";

/** The browser's storage; full where it is told so. */
class Kept {
  readonly texts = new Map<string, string>();
  full = false;
  getItem = (key: string) => this.texts.get(key) ?? null;
  setItem = (key: string, text: string) => {
    if (this.full) throw new DOMException("full", "QuotaExceededError");
    this.texts.set(key, text);
  };
  removeItem = (key: string) => void this.texts.delete(key);
}

let kept: Kept;
let document: BenchDocument;

beforeAll(async () => {
  // As the core writes it.
  document = checkedBench(await benchWith("compressor"));
});

beforeEach(() => {
  kept = new Kept();
  Object.assign(globalThis, { localStorage: kept });
});

test("a draft comes back as it was, each bench its own", () => {
  keepDraft(7, { name: "Mine", document, revision: 3 });
  keepDraft(null, { name: "New", document, revision: null, looked: true });
  expect(readDraft(7)).toEqual({ name: "Mine", document, revision: 3 });
  expect(readDraft(null)).toMatchObject({ name: "New", revision: null, looked: true });
  expect(readDraft(8)).toBeNull();
  dropDraft(7);
  expect(readDraft(7)).toBeNull();
  expect(readDraft(null)).not.toBeNull();
});

test("a full storage costs the draft and nothing else", () => {
  kept.full = true;
  expect(() => keepDraft(1, { name: "Mine", document, revision: 1 })).not.toThrow();
  expect(readDraft(1)).toBeNull();
});

test("what the core does not accept is put aside with its reason, and later work does not take its place", () => {
  const odd = JSON.stringify({ name: "Odd", document: { ...document, work: 99 }, revision: 1 });
  kept.setItem("clear-bend draft 5", odd);
  expect(readDraft(5)).toBeNull();
  expect(unreadableDraft(5)).toMatchObject({ text: odd });
  expect(unreadableDraft(5)?.why).toContain("work");
  keepDraft(5, { name: "Later", document, revision: 1 });
  expect(readDraft(5)?.name).toBe("Later");
  expect(unreadableDraft(5)?.text).toBe(odd);
  dropUnreadable(5);
  expect(unreadableDraft(5)).toBeNull();
});

test("half a text is said to be damaged", () => {
  kept.setItem("clear-bend draft new", '{"name": "Ha');
  expect(readDraft(null)).toBeNull();
  expect(unreadableDraft(null)).toEqual({ text: '{"name": "Ha', why: "its text is damaged" });
});
