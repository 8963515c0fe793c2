/** What pictures of effects that move share. */
import { useEffect, useState } from "react";

import { engine } from "../../audio/engine";
import type { SwingView } from "../../generated/types/SwingView";

/** What stands where there is nothing to draw. */
export const waitingText = (shown: unknown) => (shown ? "This stage does not move." : "Measuring the movement\u2026");

/** The place in the cycle that is heard, 0 to 1, while sound runs; where it stands otherwise, none. */
export function useHeardInCycle(swing: SwingView | null, seconds: number): number | null {
  const [place, setPlace] = useState<number | null>(null);
  useEffect(() => {
    const show = () => {
      const { playing, position_s } = engine.meters;
      const column = swing && seconds > 0 ? Math.floor((position_s / seconds) * swing.places.length) : -1;
      setPlace(playing ? (swing?.places[column] ?? null) : null);
    };
    show();
    return engine.onMeters(show);
  }, [swing, seconds]);
  return place;
}
