/** The tracks that are kept: bring one, put it on the bench, take it as the reference, delete it and take it back. */
import { Button, Drawer, FileButton, Group, Text } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, type Track } from "../../api/client";
import { withReference, withSource, withStemAdded } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { channelsText, text } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import { bring } from "./bringing";
import { DeletedEntry, useDeleting } from "./deleting";
import { Kept } from "./Kept";
import { nameOf, trackSource, useDeletedTracks, useMostTracks, useTracks } from "../path/sources";

/** The rate at which tracks are kept, Hz. */
const KEPT_HZ = 48_000;

const ACCEPTED = ".wav,.flac,.ogg,.oga,.mp3,.aif,.aiff,audio/*";

interface Props {
  opened: boolean;
  onClose: () => void;
}

export function TracksDrawer({ opened, onClose }: Props) {
  const list = useTracks();
  const most = useMostTracks();
  const [showsDeleted, setShowsDeleted] = useState(false);
  const deleted = useDeletedTracks(opened && showsDeleted).data;
  const listed = showsDeleted ? deleted : list.data;
  const client = useQueryClient();
  const reference = usePart((d) => d.reference);
  const edit = useBench((s) => s.edit);
  const deleting = useDeleting({ queryKey: ["tracks"] }, { remove: api.removeTrack, restore: api.restoreTrack });
  const fault = list.error ?? deleting.error;

  return (
    <Drawer opened={opened} onClose={onClose} title="Tracks" padding="md" size={440}>
      <FileButton
        multiple
        accept={ACCEPTED}
        onChange={(files) => {
          onClose();
          void bring(files, client);
        }}
      >
        {(props) => (
          <Button {...props} variant="default" fullWidth mb="xs">
            Bring a track
          </Button>
        )}
      </FileButton>
      <Text size="sm" mb="sm">
        WAV, FLAC, Ogg Vorbis, MP3 or AIFF, mono or stereo, up to ten minutes. A file can also be dropped anywhere on
        the page.
      </Text>
      {reference && (
        <Group justify="space-between" mb="sm">
          <Text size="sm">Reference: {nameOf(reference, list.data)}</Text>
          <Button size="xs" variant="default" onClick={() => edit("No reference", (d) => withReference(d, null))}>
            No reference
          </Button>
        </Group>
      )}
      {fault && (
        <Text c="var(--clip)" size="sm" role="alert">
          {sentenceOf(fault)}
        </Text>
      )}
      {deleting.notice}
      {listed && most !== undefined && (
        <Kept what="track" count={listed.length} most={most} deleted={showsDeleted} onDeleted={setShowsDeleted} />
      )}
      {listed?.length === 0 && <Text size="sm">{showsDeleted ? "No track is deleted." : "No track is kept yet."}</Text>}
      {listed?.map((track) => {
        if (showsDeleted)
          return <DeletedEntry key={track.hash} name={track.name} onTakeBack={() => deleting.restore(track)} />;
        const source = trackSource(track.hash);
        const use = (label: string, change: Parameters<typeof edit>[1]) => {
          edit(label, change);
          onClose();
        };
        return (
          <div key={track.hash} style={{ padding: "8px 0", borderBottom: "1px solid var(--rule)" }}>
            <Text size="sm" fw={600} style={{ overflowWrap: "anywhere" }}>
              {track.name}
            </Text>
            <Text size="xs">{described(track)}</Text>
            <Group gap={4} mt={4}>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`Use ${track.name}`}
                onClick={() => use(`Source: ${track.name}`, (d) => withSource(d, source))}
              >
                Use
              </Button>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`As reference: ${track.name}`}
                onClick={() => use(`Reference: ${track.name}`, (d) => withReference(d, source))}
              >
                As reference
              </Button>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`As a stem: ${track.name}`}
                onClick={() => use(`Add ${track.name}`, (d) => withStemAdded(d, source))}
              >
                As a stem
              </Button>
              <Button
                size="compact-sm"
                variant="default"
                aria-label={`Delete ${track.name}`}
                onClick={() => deleting.remove(track)}
              >
                Delete
              </Button>
            </Group>
          </div>
        );
      })}
    </Drawer>
  );
}

function described({ frames, rate_hz, channels, peak_dbfs, loudness_lufs }: Track): string {
  const parts = [
    text("s", frames / KEPT_HZ),
    `${rate_hz} Hz`,
    channelsText(channels),
    `peak ${text("dbfs", peak_dbfs)}`,
    loudness_lufs === null ? "too short or quiet for loudness" : text("lufs", loudness_lufs),
  ];
  return parts.join(", ");
}
