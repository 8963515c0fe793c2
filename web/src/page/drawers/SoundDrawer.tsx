/** The drawer in which a sound is made, beside the bench that plays it. */
import { Drawer } from "@mantine/core";
import type { ReactNode } from "react";

import type { SourceDocument } from "../../generated/types/SourceDocument";
import { KeepResponse } from "./KeepResponse";
import classes from "./sound-drawer.module.css";

interface Props {
  title: string;
  /** What is made, so that it can be kept. */
  source: SourceDocument;
  onClose: () => void;
  children: ReactNode;
}

export function SoundDrawer({ title, source, onClose, children }: Props) {
  return (
    <Drawer
      opened
      onClose={onClose}
      position="right"
      size="min(900px, 100vw)"
      padding="md"
      title={title}
      classNames={{ inner: classes.inner, content: classes.content }}
      withOverlay={false}
      lockScroll={false}
      trapFocus={false}
      closeOnClickOutside={false}
    >
      {children}
      <KeepResponse source={source} called={title} />
    </Drawer>
  );
}
