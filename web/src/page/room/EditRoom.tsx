/** The way into a room by its measures, where a sound is one. */
import { Button } from "@mantine/core";
import { lazy, Suspense, useRef, useState } from "react";

import { isRoom } from "../../core/core";
import type { SourceDocument } from "../../generated/types/SourceDocument";

const RoomEditor = lazy(async () => ({ default: (await import("./RoomEditor")).RoomEditor }));

interface Props {
  sound: SourceDocument | undefined;
  onChange: (label: string, next: SourceDocument, mergeKey?: string) => void;
}

export function EditRoom({ sound, onChange }: Props) {
  const [opened, setOpened] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  if (!sound || !isRoom(sound)) return null;
  return (
    <>
      <Button ref={button} size="compact-sm" variant="default" mt={4} aria-expanded={opened} onClick={() => setOpened(!opened)}>
        {opened ? "Close the room" : "Open the room"}
      </Button>
      {opened && (
        <Suspense>
          <RoomEditor
            room={sound}
            onChange={onChange}
            onClose={() => {
              setOpened(false);
              // Back to where it was opened from.
              button.current?.focus();
            }}
          />
        </Suspense>
      )}
    </>
  );
}
