/** Deleting something that is saved, with a way to take it back. */
import { Button, Group, Text } from "@mantine/core";
import { type QueryFilters, useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

interface Ways<T> {
  remove: (thing: T) => Promise<unknown>;
  restore: (thing: T) => Promise<unknown>;
}

interface Deleting<T> {
  remove: (thing: T) => void;
  error: Error | null;
  /** Says what was deleted last and offers to take it back. */
  notice: ReactNode;
}

export function useDeleting<T extends { name: string }>(listed: QueryFilters, ways: Ways<T>, onDeleted?: (thing: T) => void): Deleting<T> {
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
  return { remove: remove.mutate, error: remove.error ?? restore.error, notice };
}
