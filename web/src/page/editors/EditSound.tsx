/** The way into a sound that is made in a place of its own: a room by its measures, or a designed response. */
import { Button } from "@mantine/core";
import { lazy, Suspense, useRef, useState } from "react";

import { isMade, isRoom } from "../../core/made";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import type { Edited } from "./edited";

const RoomEditor = lazy(async () => ({ default: (await import("./room/RoomEditor")).RoomEditor }));
const DesignEditor = lazy(async () => ({ default: (await import("./design/DesignEditor")).DesignEditor }));

interface Props {
  sound: SourceDocument | undefined;
  onChange: Edited["onChange"];
}

export function EditSound({ sound, onChange }: Props) {
  const [opened, setOpened] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  if (!sound || !isMade(sound)) return null;
  const [name, Editor] = isRoom(sound) ? (["room", RoomEditor] as const) : (["design", DesignEditor] as const);
  return (
    <>
      <Button
        ref={button}
        size="compact-sm"
        variant="default"
        mt={4}
        aria-expanded={opened}
        onClick={() => setOpened(!opened)}
      >
        {opened ? `Close the ${name}` : `Open the ${name}`}
      </Button>
      {opened && (
        <Suspense>
          <Editor
            sound={sound}
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
