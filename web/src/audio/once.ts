/** Sounds that are played once, beside the bench: a sweep that is to be recorded. */

let playing: { context: AudioContext; source: AudioBufferSourceNode } | null = null;

/** Plays a sound file as it is, and calls back when it is over. */
export async function playOnce(file: Blob, onEnd: () => void): Promise<void> {
  stopOnce();
  const context = new AudioContext();
  const source = context.createBufferSource();
  playing = { context, source };
  source.buffer = await context.decodeAudioData(await file.arrayBuffer());
  source.onended = () => {
    stopOnce();
    onEnd();
  };
  source.connect(context.destination);
  source.start();
}

export function stopOnce(): void {
  if (!playing) return;
  const { context, source } = playing;
  playing = null;
  source.onended = null;
  void context.close();
}
