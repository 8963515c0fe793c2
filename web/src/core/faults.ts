/** The sentence of a refusal of the core, or of any other error. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
