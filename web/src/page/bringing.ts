/** Files that are brought to the page: sounds go to the server and onto the bench, path files into the path. */
import type { QueryClient } from "@tanstack/react-query";
import { create } from "zustand";

import { api } from "../api/client";
import { withPath, withSource } from "../bench/edits";
import { useBench } from "../bench/store";
import { checkedPath } from "../core/core";
import { sentenceOf } from "../core/faults";
import { trackSource } from "./sources";

interface Bringing {
  /** The file that is on its way. */
  name: string | null;
  /** How much of it the server has, 0 to 1; at 1 it is being read there. */
  share: number;
  fault: string | null;
  forgive(): void;
}

export const useBringing = create<Bringing>()((set) => ({
  name: null,
  share: 0,
  fault: null,
  forgive: () => set({ fault: null }),
}));

/** Path files are small. */
const LARGEST_PATH = 1_000_000;

/** Takes the files one after the other; the last sound is on the bench in the end. */
export async function bring(files: Iterable<File>, client: QueryClient): Promise<void> {
  for (const file of files) {
    useBringing.setState({ name: file.name, share: 0, fault: null });
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
  const track = await api.bring(file, (share) => useBringing.setState({ share }));
  await client.invalidateQueries({ queryKey: ["tracks"] });
  useBench.getState().edit(`Source: ${track.name}`, (d) => withSource(d, trackSource(track.hash)));
}

async function openPath(file: File): Promise<void> {
  if (file.size > LARGEST_PATH) throw new Error(`it has ${file.size} bytes; accepted: at most ${LARGEST_PATH}`);
  const path = checkedPath(await file.text());
  useBench.getState().edit(`Open ${file.name}`, (d) => withPath(d, path));
}
