/** What pictures of effects that move share. */
import { useCallback, useEffect, useState } from "react";

import { engine } from "../../audio/engine";
import type { SwingView } from "../../generated/types/SwingView";

/** What stands where there is nothing to draw. */
export const waitingText = (shown: unknown) => (shown ? "This stage does not move." : "Measuring the movement\u2026");

/** What is read off the place in the passage that is heard, s, while sound runs; nothing while it rests. */
export function useHeard(read: (second: number) => number | null): number | null {
  const [heard, setHeard] = useState<number | null>(null);
  useEffect(() => {
    const show = () => setHeard(engine.meters.playing ? read(engine.meters.position_s) : null);
    show();
    return engine.onMeters(show);
  }, [read]);
  return heard;
}

/** The place in the cycle that is heard, 0 to 1, while sound runs; where it stands otherwise, none. */
export function useHeardInCycle(swing: SwingView | null, seconds: number): number | null {
  const read = useCallback(
    (second: number) => {
      const column = swing && seconds > 0 ? Math.floor((second / seconds) * swing.places.length) : -1;
      return swing?.places[column] ?? null;
    },
    [swing, seconds],
  );
  return useHeard(read);
}
