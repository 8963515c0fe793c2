/** The samples of kept tracks, as they come from the server, handed on piece by piece. */
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";

/** The server keeps no such track. */
export class Gone extends Error {}

/** Takes in a track; `onShare` hears how far it has come. */
export async function takeTrack(
  bench: MeasuringBench,
  source: SourceDocument,
  hash: string,
  onShare: (share: number) => void,
): Promise<void> {
  const answer = await fetch(`/api/tracks/${hash}/samples?recorded`).catch(() => null);
  if (!answer) throw new Error("the server does not answer, and the track is kept there");
  if (!answer.ok || !answer.body) {
    const content = (await answer.json().catch(() => null)) as { error?: { message: string } } | null;
    const said = content?.error?.message ?? `the track could not be read: the server answered ${answer.status}`;
    throw answer.status === 404 ? new Gone(said) : new Error(said);
  }
  const number = (name: string) => Number(answer.headers.get(name) ?? 0);
  const [frames, channels, piece] = [number("x-frames"), number("x-channels"), number("x-piece")];
  bench.beginTrack(frames, channels);
  // Bytes come as the network cuts them; the core wants whole pieces.
  let room = new Uint8Array(4 * channels * Math.min(piece, frames));
  let filled = 0;
  let done = 0;
  const reader = answer.body.getReader();
  for (;;) {
    const { value } = await reader.read();
    if (!value) break;
    let at = 0;
    while (at < value.length) {
      const part = value.subarray(at, at + room.length - filled);
      room.set(part, filled);
      filled += part.length;
      at += part.length;
      if (filled === room.length) {
        bench.push(new Float32Array(room.buffer));
        done += filled / (4 * channels);
        filled = 0;
        if (frames - done < piece) room = new Uint8Array(4 * channels * (frames - done));
        onShare(done / frames);
      }
    }
  }
  if (done < frames) throw new Error("the track broke off on its way; try again");
  bench.endTrack(source, number("x-recorded-hz"));
}
