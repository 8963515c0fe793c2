/** The place that is heard, for pictures over time. */
import { useCallback } from "react";

import { engine } from "../audio/engine";

/** Calls back with the place in the loop while sound runs, or where it was paused. */
export function useHeardPlace(): (move: (x: number | null) => void) => () => void {
  return useCallback((move) => {
    const show = () => move(engine.meters.playing || engine.meters.position_s > 0 ? engine.meters.position_s : null);
    show();
    return engine.onMeters(show);
  }, []);
}
