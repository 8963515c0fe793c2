import { afterEach, beforeEach, expect, test, vi } from "vitest";

import { inLine, useLine } from "./line";

/** The places that the server tells, by ticket. */
let places: Map<string, number | null>;
let away = false;

beforeEach(() => {
  vi.useFakeTimers();
  places = new Map();
  away = false;
  vi.stubGlobal("fetch", (address: string) => {
    if (away) return Promise.reject(new Error("away"));
    const ticket = address.replace("/api/line/", "");
    return Promise.resolve(new Response(JSON.stringify({ ahead: places.get(`ticket=${ticket}`) ?? null })));
  });
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** Something that waits until it is answered. */
function waits() {
  let ticket = "";
  let answer: (text: string) => void = () => {};
  const done = inLine((sent) => {
    ticket = sent;
    return new Promise<string>((resolve) => (answer = resolve));
  });
  return { done, ticket, answer };
}

const ahead = () => useLine.getState().ahead;

test("who waits is told how many come first, until the answer is there", async () => {
  const one = waits();
  expect(one.ticket).toMatch(/^ticket=[0-9a-f-]{36}$/);
  expect(ahead()).toBeNull();
  places.set(one.ticket, 12);
  await vi.advanceTimersByTimeAsync(1000);
  expect(ahead()).toBe(12);
  places.set(one.ticket, 3);
  await vi.advanceTimersByTimeAsync(1000);
  expect(ahead()).toBe(3);
  one.answer("file");
  expect(await one.done).toBe("file");
  expect(ahead()).toBeNull();
  // Nobody asks any more.
  places.set(one.ticket, 9);
  await vi.advanceTimersByTimeAsync(5000);
  expect(ahead()).toBeNull();
});

test("of two that wait, the later place is told, and one that is answered is forgotten", async () => {
  const [one, two] = [waits(), waits()];
  places.set(one.ticket, 1).set(two.ticket, 2);
  await vi.advanceTimersByTimeAsync(1000);
  expect(ahead()).toBe(2);
  two.answer("");
  await two.done;
  expect(ahead()).toBe(1);
  one.answer("");
  await one.done;
  expect(ahead()).toBeNull();
});

test("a server that does not tell, and a request that fails, leave nothing behind", async () => {
  away = true;
  const one = waits();
  await vi.advanceTimersByTimeAsync(3000);
  expect(ahead()).toBeNull();
  one.answer("");
  await one.done;
  await expect(inLine(() => Promise.reject(new Error("full")))).rejects.toThrow("full");
  expect(ahead()).toBeNull();
});
