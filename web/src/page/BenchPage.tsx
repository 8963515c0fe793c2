/** The bench: path, picture, parameters, foot. */
import { Button, Group, Modal, Table, Text } from "@mantine/core";
import { useState } from "react";

import { useBench } from "../bench/store";
import { BenchesDrawer } from "./BenchesDrawer";
import classes from "./bench-page.module.css";
import { Foot, setHear, toggleLevelMatch, usePlaying } from "./Foot";
import { Header } from "./Header";
import { type Key, useKeys } from "./keys";
import { ParameterColumn } from "./ParameterColumn";
import { PathColumn } from "./PathColumn";
import { PictureColumn } from "./PictureColumn";
import { useSaving } from "./saving";

export function BenchPage() {
  const notice = useBench((s) => s.notice);
  const sound = usePlaying();
  const saving = useSaving();
  const [benches, setBenches] = useState(false);
  const [keysShown, setKeysShown] = useState(false);

  const keys: Key[] = [
    { hotkey: "Space", shown: "Space", does: "play or pause", act: sound.toggle },
    { hotkey: "B", shown: "B", does: "hear before", act: () => setHear("before") },
    { hotkey: "A", shown: "A", does: "hear after", act: () => setHear("after") },
    { hotkey: "D", shown: "D", does: "hear the difference", act: () => setHear("difference") },
    { hotkey: "E", shown: "E", does: "level match on or off", act: toggleLevelMatch },
    { hotkey: "mod+Z", shown: "Ctrl Z", does: "undo", act: () => useBench.getState().undo() },
    { hotkey: "mod+shift+Z", shown: "Ctrl Shift Z", does: "redo", act: () => useBench.getState().redo() },
    { hotkey: "mod+S", shown: "Ctrl S", does: "save", act: saving.save },
    { hotkey: "shift+?", shown: "?", does: "show these keys", act: () => setKeysShown(true) },
  ];
  useKeys(keys);

  return (
    <div className={classes.page}>
      <Header
        saving={saving.busy}
        away={saving.away}
        onSave={saving.save}
        onBenches={() => setBenches(true)}
        onKeys={() => setKeysShown(true)}
      />
      {notice && (
        <p className={classes.notice} role="alert">
          {notice}
        </p>
      )}
      {(saving.away || saving.refusal) && (
        <p className={classes.notice} role="alert">
          {saving.refusal
            ? `Not saved: ${saving.refusal}.`
            : "The server does not answer. Sound and pictures go on, and your edits are kept in this browser until it is back."}
        </p>
      )}
      <main className={classes.bench}>
        <PathColumn />
        <PictureColumn />
        <ParameterColumn />
      </main>
      <Foot {...sound} />

      <BenchesDrawer opened={benches} onClose={() => setBenches(false)} />
      <Modal opened={saving.stale} onClose={saving.forgive} title="This bench was saved elsewhere">
        <Text size="sm" mb="md">
          Since you opened it, somebody else, or another window, has saved this bench. Nothing is overwritten: keep
          your work as a bench of its own, or open what is saved and give your changes up.
        </Text>
        <Group justify="flex-end">
          <Button variant="default" onClick={saving.openSaved}>
            Open what is saved
          </Button>
          <Button color="dark" onClick={saving.saveAsNew}>
            Save mine as a new bench
          </Button>
        </Group>
      </Modal>
      <Modal opened={keysShown} onClose={() => setKeysShown(false)} title="Keys">
        <Table
          data={{
            body: [
              ...keys.map(({ shown, does }) => [shown, does]),
              ["Arrows", "on a control: move it; with Shift finer; Page Up and Down coarser; Home and End"],
              ["Delete", "on a control: back to its default"],
              ["Arrows, Enter", "on a picture: read the curves; play from there"],
            ],
          }}
        />
      </Modal>
    </div>
  );
}
