/** What editors of sounds have in common. */
import type { SourceDocument } from "../../generated/types/SourceDocument";

/** What an editor of a sound is given. What is changed is a change of the bench; changes of one hand, which share a key, are one step. */
export interface Edited {
  sound: SourceDocument;
  onChange: (label: string, next: SourceDocument, mergeKey?: string) => void;
  onClose: () => void;
}
