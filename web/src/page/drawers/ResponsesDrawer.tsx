/** The responses that are kept: bring one, put it into the path, save it as a file, rename it, delete it and take it back. */
import { Button, Drawer, FileButton, Group, Text } from "@mantine/core";
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Page, type Summary } from "../../api/client";
import { pathOf, withSound, withStage, withStageAdded } from "../../bench/edits";
import { useBench } from "../../bench/store";
import { catalogue, channelsText, effectOf, text } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import type { BenchDocument } from "../../generated/types/BenchDocument";
import type { Effect } from "../../generated/types/Effect";
import type { ResponseFrom } from "../../generated/types/ResponseFrom";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import { DeletedEntry, useDeleting } from "./deleting";
import { InLine } from "./InLine";
import { Kept } from "./Kept";
import { RenameForm } from "./RenameForm";
import { saveFile } from "./saveFile";
import { SweepPanel } from "./SweepPanel";

const ACCEPTED = ".wav,.flac,.ogg,.oga,.mp3,.aif,.aiff,audio/*";

const FROM: Record<ResponseFrom, string> = {
  brought: "brought",
  shipped: "shipped",
  designed: "by design",
  "of-a-room": "a room by its measures",
  recorded: "recorded by a sweep",
};

interface Props {
  opened: boolean;
  onClose: () => void;
}

export function ResponsesDrawer({ opened, onClose }: Props) {
  const [deleted, setDeleted] = useState(false);
  const list = useInfiniteQuery({
    queryKey: ["responses", deleted],
    queryFn: ({ pageParam }) => api.responses.page("", pageParam, deleted),
    initialPageParam: undefined as Summary | undefined,
    getNextPageParam: (page: Page) => (page.goesOn ? page.documents.at(-1) : undefined),
    enabled: opened,
  });
  const kept = (list.data?.pages ?? []).flatMap(({ documents }) => documents);
  const first = list.data?.pages[0];
  const client = useQueryClient();
  const refresh = () => client.invalidateQueries({ queryKey: ["responses"] });
  const edit = useBench((s) => s.edit);
  const bring = useMutation({
    mutationFn: async (files: File[]) => {
      for (const file of files) await api.bringResponse(file);
    },
    // Those that came before a bad one are kept, and so is a file that is no response, as a track.
    onSettled: () => Promise.all([refresh(), client.invalidateQueries({ queryKey: ["tracks"] })]),
  });
  const use = useMutation({
    mutationFn: async ({ id, name }: Summary) => {
      const { source } = (await api.responses.read(id)).document;
      edit(`Response: ${name}`, (bench) => withResponse(bench, source));
    },
    onSuccess: onClose,
  });
  const save = useMutation({
    mutationFn: async ({ id, name }: Summary) =>
      saveFile(`${name}.wav`, await api.responseFile((await api.responses.read(id)).document.source)),
  });
  const deleting = useDeleting({ queryKey: ["responses"] }, api.responses);
  const fault = list.error ?? bring.error ?? use.error ?? save.error ?? deleting.error;
  return (
    <Drawer opened={opened} onClose={onClose} title="Responses" padding="md" size={440}>
      <FileButton multiple accept={ACCEPTED} onChange={(files) => bring.mutate(files)}>
        {(props) => (
          <Button {...props} variant="default" fullWidth mb="xs" loading={bring.isPending}>
            Bring a response
          </Button>
        )}
      </FileButton>
      <InLine />
      <Text size="sm" mb="sm">
        WAV, FLAC, Ogg Vorbis, MP3 or AIFF, mono or stereo, up to ten seconds; or true stereo in four channels, what the
        left input gives left and right, then what the right input gives. A WAV file that was saved here from a design
        or a room is opened again as that.
      </Text>
      {fault && (
        <Text c="var(--clip)" size="sm" role="alert">
          {sentenceOf(fault)}
        </Text>
      )}
      <SweepPanel />
      {deleting.notice}
      {first && <Kept what="response" count={first.total} most={first.most} deleted={deleted} onDeleted={setDeleted} />}
      {first && kept.length === 0 && (
        <Text size="sm">
          {deleted
            ? "No response is deleted."
            : "No response is kept yet. Designs and rooms are kept where they are made."}
        </Text>
      )}
      {kept.map((response) =>
        deleted ? (
          <DeletedEntry key={response.id} name={response.name} onTakeBack={() => deleting.restore(response)} />
        ) : (
          <div
            key={`${response.id} ${response.revision}`}
            style={{ padding: "8px 0", borderBottom: "1px solid var(--rule)" }}
          >
            <Name response={response} onRenamed={refresh} />
            <Text size="xs">{described(response)}</Text>
            <Group gap={4} mt={4}>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`Use ${response.name}`}
                onClick={() => use.mutate(response)}
              >
                Use
              </Button>
              {response.about?.from !== "brought" && response.about?.from !== "recorded" && (
                <Button
                  size="compact-sm"
                  variant="default"
                  aria-label={`Save as WAV: ${response.name}`}
                  onClick={() => save.mutate(response)}
                >
                  Save as WAV
                </Button>
              )}
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`Delete ${response.name}`}
                onClick={() => deleting.remove(response)}
              >
                Delete
              </Button>
            </Group>
          </div>
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
          More responses
        </Button>
      )}
    </Drawer>
  );
}

function Name({ response, onRenamed }: { response: Summary; onRenamed: () => Promise<void> }) {
  const [renaming, setRenaming] = useState(false);
  if (renaming) {
    return (
      <RenameForm
        called={response.name}
        rename={(to) => api.responses.update(response.id, response.revision, to)}
        onRenamed={onRenamed}
        onClose={() => setRenaming(false)}
      />
    );
  }
  return (
    <Group gap={6} justify="space-between" wrap="nowrap">
      <Text size="sm" fw={600} style={{ overflowWrap: "anywhere" }}>
        {response.name}
      </Text>
      <Button
        size="compact-sm"
        variant="default"
        aria-label={`Rename ${response.name}`}
        onClick={() => setRenaming(true)}
      >
        Rename
      </Button>
    </Group>
  );
}

function described({ about }: Summary): string {
  if (!about) return "";
  const { from, seconds, rate_hz, channels, decay_s, clipped, recorded } = about;
  const parts = [
    FROM[from],
    text("fine-s", seconds),
    `${rate_hz} Hz`,
    channelsText(channels),
    decay_s === null ? "no decay time" : `falls by 60 dB in ${text("fine-s", decay_s)}`,
    ...(recorded ? [`${text("db", recorded.range_db)} over the noise`] : []),
    ...(clipped ? ["its wave was cut off at full scale"] : []),
  ];
  return parts.join(", ");
}

/** The slot of an effect that takes a whole response. */
const slotOf = (effect: Effect | undefined) => effect?.sounds.find(({ whole }) => whole);

/** A bench with a response in the stage that is looked at, or in a new one where that takes none. */
function withResponse(bench: BenchDocument, source: SourceDocument): BenchDocument {
  const stage = pathOf(bench).stages[bench.view.stage];
  const taking = stage && slotOf(effectOf(stage)) ? bench : added(bench);
  const index = taking.view.stage;
  return withStage(taking, index, (taken) => withSound(taken, slotOf(effectOf(taken))?.id ?? "", source));
}

function added(bench: BenchDocument): BenchDocument {
  const effect = catalogue.effects.find((each) => slotOf(each));
  return effect ? withStageAdded(bench, effect) : bench;
}
