/** Another name for something that is saved. */
import { Button, Group, TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";

import { sentenceOf } from "../../core/faults";

interface Props {
  /** The name that it has. */
  called: string;
  rename: (name: string) => Promise<unknown>;
  onRenamed: () => Promise<void>;
  /** Closed, renamed or not. */
  onClose: () => void;
}

export function RenameForm({ called, rename, onRenamed, onClose }: Props) {
  const [name, setName] = useState(called);
  const work = useMutation({
    mutationFn: rename,
    onSuccess: () => {
      onClose();
      return onRenamed();
    },
  });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        work.mutate(name);
      }}
    >
      <Group gap="xs" py={6} align="end">
        <TextInput
          label="Name"
          value={name}
          maxLength={120}
          data-autofocus
          onChange={({ target }) => setName(target.value)}
          error={work.error ? sentenceOf(work.error) : undefined}
          style={{ flex: 1 }}
        />
        <Button size="sm" type="submit" color="dark">
          Rename
        </Button>
        <Button size="sm" variant="default" onClick={onClose}>
          Cancel
        </Button>
      </Group>
    </form>
  );
}
