/** Deleting something that is saved, with a way to take it back. */
import { Button, Group, Text } from "@mantine/core";
import { type QueryFilters, useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

interface DeletedEntryProps {
  name: string;
  onTakeBack: () => void;
}

/** One that is listed among the deleted, with the way back. */
export function DeletedEntry({ name, onTakeBack }: DeletedEntryProps) {
  return (
    <Group gap="xs" py={6} wrap="nowrap" justify="space-between" style={{ borderBottom: "1px solid var(--rule)" }}>
      <Text size="sm" style={{ overflowWrap: "anywhere" }}>
        {name}
      </Text>
      <Button
        variant="default"
        size="compact-sm"
        style={{ flex: "none" }}
        aria-label={`Take back ${name}`}
        onClick={onTakeBack}
      >
        Take back
      </Button>
    </Group>
  );
}

interface Ways<T> {
  remove: (thing: T) => Promise<unknown>;
  restore: (thing: T) => Promise<unknown>;
}

interface Deleting<T> {
  remove: (thing: T) => void;
  restore: (thing: T) => void;
  error: Error | null;
  /** Says what was deleted last and offers to take it back. */
  notice: ReactNode;
}

export function useDeleting<T extends { name: string }>(
  listed: QueryFilters,
  ways: Ways<T>,
  onDeleted?: (thing: T) => void,
): Deleting<T> {
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries(listed);
  const [deleted, setDeleted] = useState<T | null>(null);
  const remove = useMutation({
    mutationFn: ways.remove,
    onSuccess: (_, thing) => {
      setDeleted(thing);
      onDeleted?.(thing);
      return refresh();
    },
  });
  const restore = useMutation({
    mutationFn: ways.restore,
    onSuccess: () => {
      setDeleted(null);
      return refresh();
    },
  });
  const notice = deleted && (
    <Group justify="space-between" mb="sm" role="status">
      <Text size="sm">{`\u201c${deleted.name}\u201d is deleted.`}</Text>
      <Button size="xs" variant="default" onClick={() => restore.mutate(deleted)}>
        Take back
      </Button>
    </Group>
  );
  return { remove: remove.mutate, restore: restore.mutate, error: remove.error ?? restore.error, notice };
}
