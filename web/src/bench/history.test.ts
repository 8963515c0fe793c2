import fc from "fast-check";
import { expect, test } from "vitest";

import { act, begin, drift, type History, redo, undo } from "./history";

test("a drag is one step, and another hand or a rest begins a new one", () => {
  let h = begin(0);
  h = act(h, 1, "Ratio 2", "ratio", 1000);
  h = act(h, 2, "Ratio 3", "ratio", 1500);
  h = act(h, 3, "Ratio 4", "ratio", 2399);
  expect(h.past).toHaveLength(1);
  expect(h.past[0]).toMatchObject({ label: "Ratio 4", before: 0 });
  expect(act(h, 4, "Knee", "knee", 2400).past).toHaveLength(2);
  expect(act(h, 4, "Ratio 5", "ratio", 2399 + 900).past).toHaveLength(2);
  // What has no key is a step by itself, always.
  expect(act(act(h, 4, "Add", null, 2400), 5, "Add", null, 2400).past).toHaveLength(3);
});

test("what drifts is neither a step nor lost", () => {
  const h = drift(act(begin("a"), "b", "B", null, 0), "b'");
  expect(undo(h)).toMatchObject({ present: "a", future: [{ label: "B", before: "b'" }] });
  expect(redo(undo(h)).present).toBe("b'");
});

test("nothing to undo or to redo changes nothing", () => {
  const h = begin(1);
  expect(undo(h)).toBe(h);
  expect(redo(h)).toBe(h);
});

/** A list of all states, and a place in it: what undo and redo are by definition. */
interface Model {
  states: number[];
  at: number;
}

test("any acts, undos and redos are those of a list of states", () => {
  const step = fc.oneof(fc.record({ act: fc.nat() }), fc.constant("undo" as const), fc.constant("redo" as const));
  fc.assert(
    fc.property(fc.array(step, { maxLength: 60 }), (steps) => {
      let h: History<number> = begin(-1);
      const model: Model = { states: [-1], at: 0 };
      for (const [i, wanted] of steps.entries()) {
        if (wanted === "undo") {
          h = undo(h);
          model.at = Math.max(0, model.at - 1);
        } else if (wanted === "redo") {
          h = redo(h);
          model.at = Math.min(model.states.length - 1, model.at + 1);
        } else {
          h = act(h, wanted.act, "", null, i);
          model.states = [...model.states.slice(0, model.at + 1), wanted.act];
          model.at++;
        }
        expect(h.present).toBe(model.states[model.at]);
        expect(h.past).toHaveLength(model.at);
        expect(h.future).toHaveLength(model.states.length - 1 - model.at);
      }
    }),
  );
});

test("a step that was undone and done again is not gone on with", () => {
  const h = redo(undo(act(begin(0), 1, "Ratio", "ratio", 0)));
  expect(act(h, 2, "Ratio", "ratio", 1).past).toHaveLength(2);
});
