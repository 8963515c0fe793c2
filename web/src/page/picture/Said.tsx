/** A sentence of the core, its measured numbers set apart. */
import type { Sentence } from "../../generated/types/Sentence";

export function Said({ sentence }: { sentence: Sentence }) {
  return sentence.map((span, k) => (span.number ? <b key={k}>{span.text}</b> : span.text));
}
