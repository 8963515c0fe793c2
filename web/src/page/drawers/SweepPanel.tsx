/** A response by a sweep: it is played or saved, recorded in a place or through a device, and the recording brought back. */
import { Button, FileButton, Group } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api } from "../../api/client";
import { playOnce, stopOnce } from "../../audio/once";
import { sourceWith } from "../../bench/edits";
import { signalControl, signalOf } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import { fromFile } from "../../core/numbers";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import { ValueField } from "../../parts/ValueField";
import { InLine } from "./InLine";
import classes from "./sound-drawer.module.css";
import { saveFile } from "./saveFile";

const SWEEP = "sweep";

export function SweepPanel() {
  const [sweep, setSweep] = useState<SourceDocument>({ kind: SWEEP });
  const [playing, setPlaying] = useState(false);
  useEffect(() => stopOnce, []);
  const client = useQueryClient();
  const play = useMutation({
    mutationFn: async () => {
      await playOnce(await api.responseFile(sweep), () => setPlaying(false));
      setPlaying(true);
    },
  });
  const save = useMutation({ mutationFn: async () => saveFile("sweep.wav", await api.responseFile(sweep)) });
  const bring = useMutation({
    mutationFn: (file: File) => api.bringRecording(file, sweep),
    onSuccess: () =>
      Promise.all([
        client.invalidateQueries({ queryKey: ["responses"] }),
        client.invalidateQueries({ queryKey: ["tracks"] }),
      ]),
  });
  const stop = () => {
    stopOnce();
    setPlaying(false);
  };
  const fault = play.error ?? save.error ?? bring.error;
  const found = bring.data?.document.about?.recorded;
  return (
    <details className={classes.sweep}>
      <summary>Record a response by a sweep</summary>
      <p>
        Play the sweep in the place, or send it through the device, and record all of it, with what rings after it.
        Bring the recording back with the sweep set as it was played.
      </p>
      <div className={classes.values}>
        {(signalOf(SWEEP)?.params ?? []).map((param) => (
          <label key={param.id} title={param.what}>
            <span>{param.label}</span>
            <ValueField
              label={`Sweep: ${param.label}`}
              control={signalControl(SWEEP, param.id)}
              value={fromFile(sweep.params?.[param.id], fromFile(param.default, 0))}
              onChange={(value) => setSweep(sourceWith(sweep, [[param, value]]))}
            />
          </label>
        ))}
      </div>
      <Group gap={6}>
        <Button
          size="compact-sm"
          variant="default"
          loading={play.isPending}
          onClick={() => (playing ? stop() : play.mutate())}
        >
          {playing ? "Stop the sweep" : "Play the sweep"}
        </Button>
        <Button size="compact-sm" variant="default" loading={save.isPending} onClick={() => save.mutate()}>
          Save the sweep
        </Button>
        <FileButton accept=".wav,.flac,.aif,.aiff,audio/*" onChange={(file) => file && bring.mutate(file)}>
          {(props) => (
            <Button {...props} size="compact-sm" variant="default" loading={bring.isPending}>
              Bring the recording
            </Button>
          )}
        </FileButton>
      </Group>
      <InLine />
      {fault && <p role="alert">{sentenceOf(fault)}</p>}
      {found && (
        <div role="status">
          {[`Kept as \u201c${bring.data?.name}\u201d.`, ...found.sentences].map((sentence) => (
            <p key={sentence}>{sentence}</p>
          ))}
        </div>
      )}
    </details>
  );
}
