/** Files that are brought to the page: sounds go to the server and onto the bench, path files into the path. */
import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";

import { api } from "../../api/client";
import { withPath, withSource, withWork } from "../../bench/edits";
import { useBench } from "../../bench/store";
import { checkedPath } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import { trackSource } from "../path/sources";

interface Bringing {
  /** The file that is on its way. */
  name: string | null;
  /** How much of it the server has, 0 to 1; at 1 it is being read there. */
  share: number;
  fault: string | null;
  /** What became of a file that did not go where it was meant to. */
  notice: string | null;
  forgive(): void;
}

export const useBringing = create<Bringing>()((set) => ({
  name: null,
  share: 0,
  fault: null,
  notice: null,
  forgive: () => set({ fault: null, notice: null }),
}));

/** Path files are small. */
const LARGEST_PATH = 1_000_000;

/** Takes the files one after the other; the last sound is on the bench in the end. */
export async function bring(files: Iterable<File>, client: QueryClient): Promise<void> {
  for (const file of files) {
    useBringing.setState({ name: file.name, share: 0, fault: null, notice: null });
    try {
      if (file.name.toLowerCase().endsWith(".json")) await openPath(file);
      else await bringTrack(file, client);
      useBringing.setState({ name: null });
    } catch (error) {
      useBringing.setState({ name: null, fault: `\u201c${file.name}\u201d was not taken: ${sentenceOf(error)}.` });
      return;
    }
  }
}

async function bringTrack(file: File, client: QueryClient): Promise<void> {
  const then = placeNow();
  const track = await api.bring(file, (share) => useBringing.setState({ share }));
  await client.invalidateQueries({ queryKey: ["tracks"] });
  if (isThere(then))
    useBench.getState().edit(`Source: ${track.name}`, (d) => withSource(d, trackSource(track.hash), then.work));
  else
    useBringing.setState({
      notice: `\u201c${track.name}\u201d is among your tracks. It was not put on this bench: another bench or another sound stands here by now.`,
    });
}

async function openPath(file: File): Promise<void> {
  if (file.size > LARGEST_PATH) throw new Error(`it has ${file.size} bytes; accepted: at most ${LARGEST_PATH}`);
  const then = placeNow();
  const path = checkedPath(await file.text());
  if (isThere(then)) useBench.getState().edit(`Open ${file.name}`, (d) => withPath(withWork(d, then.work), path));
}

interface Place {
  opened: number;
  work: number;
  source: SourceDocument | undefined;
}

/** Where a file that is being brought belongs: the stem at work of the bench that is open. */
function placeNow(): Place {
  const { opened, history } = useBench.getState();
  const { stems, work } = history.present.document;
  return { opened, work, source: stems[work]?.source };
}

/** Whether the same bench is open, and the stem is still what it was. */
function isThere({ opened, work, source }: Place): boolean {
  const now = useBench.getState();
  return now.opened === opened && now.history.present.document.stems[work]?.source === source;
}
