import { expect, test } from "vitest";

import { Following, Newest, Overtaken, pause } from "./newest";

test("what is newer stops what is at work at its next breath, and nothing between is done", async () => {
  const begun: number[] = [];
  const done: number[] = [];
  const work = new Newest<number>(async (wanted) => {
    begun.push(wanted);
    try {
      for (let part = 0; part < 4; part++) await work.breath();
      done.push(wanted);
    } catch (error) {
      expect(error).toBeInstanceOf(Overtaken);
    }
  });
  for (const wanted of [1, 2, 3]) work.put(wanted);
  await pause(50);
  work.put(4);
  await pause(50);
  expect(begun).toEqual([1, 3, 4]);
  expect(done).toEqual([3, 4]);
});

test("nothing wanted leaves what is at work", async () => {
  const done: number[] = [];
  const work = new Newest<number>(async (wanted) => {
    await work.breath().then(
      () => done.push(wanted),
      () => {},
    );
  });
  work.put(1);
  work.put(null);
  await pause(30);
  expect(done).toEqual([]);
});

test("two questions are under way, and of all others only the newest is asked", async () => {
  const asked: number[] = [];
  const answers: (() => void)[] = [];
  const following = new Following<number>((wanted) => {
    asked.push(wanted);
    return new Promise((resolve) => answers.push(resolve));
  });
  for (let k = 1; k <= 6; k++) following.put(k);
  expect(asked).toEqual([1, 2]);
  answers.shift()?.();
  await pause(0);
  expect(asked).toEqual([1, 2, 6]);
  answers.shift()?.();
  await pause(0);
  following.put(7);
  expect(asked).toEqual([1, 2, 6, 7]);
});

test("a question that fails lets the next one be asked", async () => {
  const asked: number[] = [];
  const following = new Following<number>((wanted) => {
    asked.push(wanted);
    return wanted < 3 ? Promise.reject(new Error("away")).catch(() => {}) : Promise.resolve();
  });
  for (const wanted of [1, 2, 3]) following.put(wanted);
  await pause(0);
  expect(asked).toEqual([1, 2, 3]);
});
