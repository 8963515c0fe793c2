import { expect, test } from "vitest";

import { faultLines, noteFault } from "./happened";

test("the last twenty faults are kept, each with its time, none twice in a row", () => {
  noteFault("first");
  noteFault("first");
  expect(faultLines()).toHaveLength(1);
  expect(faultLines()[0]).toMatch(/^\d{4}-\d\d-\d\dT[\d:.]+Z first$/);
  for (let i = 0; i < 30; i++) noteFault(`fault ${i}`);
  expect(faultLines().map((line) => line.split(" ").slice(1).join(" "))).toEqual(
    Array.from({ length: 20 }, (_, i) => `fault ${i + 10}`),
  );
});
