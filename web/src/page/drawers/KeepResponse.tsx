/** Keeps a response that is made here under a name, and saves it as a file that can be opened again. */
import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import { sentenceOf } from "../../core/faults";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import { InLine } from "./InLine";
import { saveFile } from "./saveFile";
import classes from "./sound-drawer.module.css";

interface Props {
  source: SourceDocument;
  /** The name that is proposed. */
  called: string;
}

export function KeepResponse({ source, called }: Props) {
  const [name, setName] = useState(called);
  const client = useQueryClient();
  const keep = useMutation({
    mutationFn: () => api.responses.create(name, { format: "clear-bend-response", version: 1, source }),
    onSuccess: () => client.invalidateQueries({ queryKey: ["responses"] }),
  });
  const file = useMutation({ mutationFn: async () => saveFile(`${name}.wav`, await api.responseFile(source)) });
  const fault = keep.error ?? file.error;
  return (
    <form
      className={classes.keep}
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <TextInput
        size="xs"
        label="Name of the response"
        value={name}
        maxLength={120}
        onChange={({ target }) => setName(target.value)}
      />
      <Button size="xs" type="submit" color="dark" loading={keep.isPending}>
        Keep
      </Button>
      <Button size="xs" variant="default" loading={file.isPending} onClick={() => file.mutate()}>
        Save as WAV
      </Button>
      <InLine />
      <span role="status">
        {keep.isSuccess && keep.data.document.source && `Kept as \u201c${keep.data.name}\u201d`}
      </span>
      {fault && <p role="alert">{sentenceOf(fault)}</p>}
    </form>
  );
}
