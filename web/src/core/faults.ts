/** A module that has trapped, or whose objects are still held by a call that did, cannot be used any more. */
export function isBroken(error: unknown): boolean {
  return (
    error instanceof WebAssembly.RuntimeError ||
    /recursive use of an object|null pointer passed to rust/.test(sentenceOf(error))
  );
}

/** The sentence of a refusal of the core, or of any other error. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
