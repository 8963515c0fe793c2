/** The saved benches: open, rename, delete (and take back), begin a new one. */
import { Button, Drawer, Group, Text, TextInput } from "@mantine/core";
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Page, type Summary } from "../../api/client";
import { openBench, openFresh } from "../../bench/opening";
import { useBench } from "../../bench/store";
import { sentenceOf } from "../../core/faults";
import { DeletedEntry, useDeleting } from "./deleting";
import { Kept } from "./Kept";
import { RenameForm } from "./RenameForm";
import { WhereSaved } from "./WhereSaved";

interface Props {
  opened: boolean;
  onClose: () => void;
}

export function BenchesDrawer({ opened, onClose }: Props) {
  const [named, setNamed] = useState("");
  const [deleted, setDeleted] = useState(false);
  const list = useInfiniteQuery({
    queryKey: ["benches", named, deleted],
    queryFn: ({ pageParam }) => api.benches.page(named, pageParam, deleted),
    initialPageParam: undefined as Summary | undefined,
    getNextPageParam: (page: Page) => (page.goesOn ? page.documents.at(-1) : undefined),
    // While one types, the last list stays.
    placeholderData: (last, query) => (query?.queryKey[2] === deleted ? last : undefined),
    enabled: opened,
  });
  const pages = list.data?.pages ?? [];
  const benches = pages.flatMap(({ documents }) => documents);
  const first = pages[0];
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries({ queryKey: ["benches"] });
  const current = useBench((s) => s.saved?.id ?? null);
  const open = useMutation({ mutationFn: openBench, onSuccess: onClose });
  const begin = useMutation({ mutationFn: openFresh, onSuccess: onClose });
  const deleting = useDeleting({ queryKey: ["benches"] }, api.benches, (bench) => {
    if (bench.id === current) void openFresh().catch(() => {});
  });
  const fault = list.error ?? open.error ?? begin.error ?? deleting.error;

  return (
    <Drawer opened={opened} onClose={onClose} title="Benches" padding="md" size={420}>
      <Button variant="default" fullWidth mb="sm" onClick={() => begin.mutate()}>
        New bench
      </Button>
      {fault && (
        <Text c="var(--clip)" size="sm" role="alert">
          {sentenceOf(fault)}
        </Text>
      )}
      {deleting.notice}
      {first && (
        <Kept
          what="bench"
          plural="benches"
          count={first.total}
          most={first.most}
          deleted={deleted}
          onDeleted={setDeleted}
        />
      )}
      {first && (first.total > first.documents.length || named !== "") && (
        <TextInput
          label="Part of the name"
          mb="sm"
          maxLength={120}
          value={named}
          onChange={({ target }) => setNamed(target.value)}
        />
      )}
      {first && benches.length === 0 && (
        <Text size="sm">
          {named !== ""
            ? "No bench has this in its name."
            : deleted
              ? "No bench is deleted."
              : "No bench is saved yet."}
        </Text>
      )}
      {benches.map((bench) =>
        deleted ? (
          <DeletedEntry key={bench.id} name={bench.name} onTakeBack={() => deleting.restore(bench)} />
        ) : (
          <Entry
            key={`${bench.id} ${bench.revision}`}
            bench={bench}
            isOpen={bench.id === current}
            onOpen={() => open.mutate(bench.id)}
            onDelete={() => deleting.remove(bench)}
            onRenamed={refresh}
          />
        ),
      )}
      {list.hasNextPage && (
        <Button
          variant="default"
          fullWidth
          mt="sm"
          loading={list.isFetchingNextPage}
          onClick={() => void list.fetchNextPage()}
        >
          More benches
        </Button>
      )}
      {opened && <WhereSaved />}
    </Drawer>
  );
}

interface EntryProps {
  bench: Summary;
  isOpen: boolean;
  onOpen: () => void;
  onDelete: () => void;
  onRenamed: () => Promise<void>;
}

function Entry({ bench, isOpen, onOpen, onDelete, onRenamed }: EntryProps) {
  const [renaming, setRenaming] = useState(false);
  if (renaming) {
    return (
      <RenameForm
        called={bench.name}
        rename={(to) => api.benches.update(bench.id, bench.revision, to)}
        onRenamed={onRenamed}
        onClose={() => setRenaming(false)}
      />
    );
  }
  const when = new Date(bench.updated_at).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
  return (
    <Group gap="xs" py={6} wrap="nowrap" justify="space-between" style={{ borderBottom: "1px solid var(--rule)" }}>
      <Button
        variant="subtle"
        color="dark"
        size="compact-md"
        onClick={onOpen}
        title={`Saved ${when}`}
        h="auto"
        mih={30}
        styles={{ label: { whiteSpace: "normal", textAlign: "left" } }}
      >
        {bench.name}
        {isOpen && " (open)"}
      </Button>
      <Group gap={4} wrap="nowrap">
        {bench.shipped && <Text size="xs">example</Text>}
        {/* The open bench is renamed in the head of the page, where its unsaved work is not at risk. */}
        {!isOpen && !bench.shipped && (
          <Button
            variant="default"
            size="compact-sm"
            aria-label={`Rename ${bench.name}`}
            onClick={() => setRenaming(true)}
          >
            Rename
          </Button>
        )}
        <Button variant="default" size="compact-sm" aria-label={`Delete ${bench.name}`} onClick={onDelete}>
          Delete
        </Button>
      </Group>
    </Group>
  );
}
