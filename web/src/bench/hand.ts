/** Whether a hand holds something of a picture: what stands beside the picture follows at leisure until it lets go. */
import { useThrottledValue } from "@mantine/hooks";
import { create } from "zustand";

export const useHand = create<{ held: boolean }>()(() => ({ held: false }));

/** What stands beside a held picture is drawn anew once in so long, ms. */
const LEISURE_MS = 100;

/** A value as it is, or, while something of a picture is held, as it was a moment ago. */
export function useAtLeisure<T>(value: T): T {
  const held = useHand((h) => h.held);
  const seldom = useThrottledValue(value, LEISURE_MS);
  return held ? seldom : value;
}
