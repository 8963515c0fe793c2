/** What can be taken away as a file: sound, measures, pictures, the path. And the way back: opening a path file. */
import { Button, FileButton, Group, Modal, NativeSelect, Text } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { api, type ExportPart, type SoundFormat } from "../../api/client";
import { pathOf } from "../../bench/edits";
import { useBench } from "../../bench/store";
import { sentenceOf } from "../../core/faults";
import { reportCsv, useMeasured } from "../../measuring/measured";
import { saidOf } from "../../measuring/said";
import { picturesOnPage, pngOf, svgOf } from "../../plot/exporting";
import { bring } from "./bringing";
import { InLine } from "./InLine";
import { saveFile } from "./saveFile";

const PARTS: Record<ExportPart, string> = {
  before: "Before",
  after: "After, not matched",
  matched: "After, matched as it is heard",
  difference: "Difference",
  sum: "All stems together, with what comes back",
};
const FORMATS: Record<SoundFormat, string> = {
  wav16: "WAV, 16 bits",
  wav24: "WAV, 24 bits",
  wav32: "WAV, 32-bit float",
  flac16: "FLAC, 16 bits",
  flac24: "FLAC, 24 bits",
};

const asJson = (value: unknown) => new Blob([JSON.stringify(value, null, 2)], { type: "application/json" });

const bench = () => useBench.getState().history.present;

/** The caption of a picture: what it is, of which bench, and what was measured. */
function captionOf(picture: string): string {
  const { report } = useMeasured.getState();
  const sentences = report ? saidOf(report, useBench.getState().history.present.document.listening.level_match) : [];
  const said = sentences.map((sentence) => sentence.map((span) => span.text).join("")).join(" ");
  return `${picture}, \u201c${bench().name}\u201d. ${said}`;
}

async function savePicture(name: string, svg: SVGSVGElement, kind: "svg" | "png"): Promise<void> {
  const text = svgOf(svg, captionOf(name));
  const file = `clear-bend ${name.toLowerCase()}.${kind}`;
  saveFile(file, kind === "svg" ? new Blob([text], { type: "image/svg+xml" }) : await pngOf(text));
}

interface Props {
  opened: boolean;
  onClose: () => void;
}

export function ExportDialog({ opened, onClose }: Props) {
  return (
    <Modal opened={opened} onClose={onClose} title="Files" size={470}>
      {opened && <Content onClose={onClose} />}
    </Modal>
  );
}

function Content({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const [part, setPart] = useState<ExportPart>("after");
  const [format, setFormat] = useState<SoundFormat>("wav32");
  const [pictures] = useState(picturesOnPage);
  const [picture, setPicture] = useState(() => pictures.keys().next().value ?? "");
  const work = useMutation({ mutationFn: (task: () => Promise<void>) => task(), networkMode: "always" });
  const sound = async () => {
    const blob = await api.soundFile(bench().document, part, format);
    saveFile(`clear-bend ${part}.${format.startsWith("flac") ? "flac" : "wav"}`, blob);
  };
  const drawn = (kind: "svg" | "png") => async () => {
    const svg = pictures.get(picture);
    if (svg) await savePicture(picture, svg, kind);
  };
  return (
    <>
      {work.error && (
        <Text c="var(--clip)" size="sm" role="alert" mb="xs">
          {sentenceOf(work.error)}
        </Text>
      )}
      <Section title="Sound of the loop, from the server">
        <NativeSelect
          size="sm"
          aria-label="Part"
          value={part}
          data={options(PARTS).filter(({ value }) => value !== "sum" || bench().document.stems.length > 1)}
          onChange={({ target }) => setPart(target.value as ExportPart)}
        />
        <NativeSelect
          size="sm"
          aria-label="Format"
          value={format}
          data={options(FORMATS)}
          onChange={({ target }) => setFormat(target.value as SoundFormat)}
        />
        <Button size="sm" color="dark" loading={work.isPending} onClick={() => work.mutate(sound)}>
          Save sound
        </Button>
        <InLine />
      </Section>
      <Section title="Measures before and after">
        <Button
          size="sm"
          variant="default"
          onClick={() =>
            work.mutate(async () =>
              saveFile("clear-bend measures.csv", new Blob([await reportCsv()], { type: "text/csv" })),
            )
          }
        >
          Save CSV
        </Button>
        <Button
          size="sm"
          variant="default"
          onClick={() => saveFile("clear-bend measures.json", asJson(useMeasured.getState().report))}
        >
          Save JSON
        </Button>
      </Section>
      <Section title="A picture with its caption">
        <NativeSelect
          size="sm"
          aria-label="Picture"
          value={picture}
          data={[...pictures.keys()]}
          onChange={({ target }) => setPicture(target.value)}
        />
        <Button size="sm" variant="default" onClick={() => work.mutate(drawn("svg"))}>
          Save SVG
        </Button>
        <Button size="sm" variant="default" onClick={() => work.mutate(drawn("png"))}>
          Save PNG
        </Button>
      </Section>
      <Section title="The path">
        <Button
          size="sm"
          variant="default"
          onClick={() => saveFile("clear-bend path.json", asJson(pathOf(bench().document)))}
        >
          Save the path
        </Button>
        <FileButton
          accept=".json,application/json"
          onChange={(file) => {
            onClose();
            if (file) void bring([file], client);
          }}
        >
          {(props) => (
            <Button {...props} size="sm" variant="default">
              Open a path
            </Button>
          )}
        </FileButton>
      </Section>
    </>
  );
}

function options(names: Record<string, string>) {
  return Object.entries(names).map(([value, label]) => ({ value, label }));
}

function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section style={{ padding: "8px 0 12px", borderTop: "1px solid var(--rule)" }}>
      <Text size="sm" fw={650} mb={6}>
        {title}
      </Text>
      <Group gap={8}>{children}</Group>
    </section>
  );
}
