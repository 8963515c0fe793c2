/** What a picture puts into the head of its column, beside the tabs. */
import { createContext, type ReactNode, useContext } from "react";
import { createPortal } from "react-dom";

export const HeadSlot = createContext<HTMLElement | null>(null);

export function InHead({ children }: { children: ReactNode }) {
  const slot = useContext(HeadSlot);
  return slot && createPortal(children, slot);
}
