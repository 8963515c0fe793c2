/** The core itself in a unit test: the module that the page loads, from the disk. */
import { readFileSync } from "node:fs";

import { pathOf, withPath, withStageAdded } from "../bench/edits";
import { effectNamed, freshBench, startCore } from "../core/core";
import type { BenchDocument } from "../generated/types/BenchDocument";

const MODULE = new URL("../generated/wasm/clear_bend_wasm_bg.wasm", import.meta.url);

let started: Promise<void> | null = null;

export function coreForTests(): Promise<void> {
  started ??= (async () => {
    const over = globalThis.fetch;
    globalThis.fetch = () => Promise.resolve(new Response(readFileSync(MODULE)));
    try {
      await startCore();
    } finally {
      globalThis.fetch = over;
    }
  })();
  return started;
}

/** A bench with these effects in its path, as the page adds them. */
export async function benchWith(...effects: string[]): Promise<BenchDocument> {
  await coreForTests();
  const empty = freshBench();
  const bare = withPath(empty, { ...pathOf(empty), stages: [] });
  return effects.reduce((bench, id) => withStageAdded(bench, effectNamed(id)), bare);
}
