/** The bench: path, picture, parameters, foot. */
import { Button, Group, Modal, Table, Text } from "@mantine/core";
import { useState, useSyncExternalStore } from "react";

import { engine } from "../audio/engine";
import { useLooking } from "../bench/analysing";
import { useFanHeard } from "../bench/fanHeard";
import { dropUnreadable, unreadableDraft } from "../bench/drafts";
import { withView } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { useMeasured } from "../measuring/measured";
import { About } from "./drawers/About";
import { BenchesDrawer } from "./drawers/BenchesDrawer";
import classes from "./bench-page.module.css";
import { Bringing, DropZone } from "./drawers/DropZone";
import { EarMapEditor } from "./editors/EarMapEditor";
import { ExportDialog } from "./drawers/ExportDialog";
import { Foot, setHear, toggleAllStems, toggleHidden, toggleLevelMatch, usePlaying } from "./foot/Foot";
import { Header } from "./head/Header";
import { type Key, useKeys } from "./keys";
import { ParameterColumn } from "./parameters/ParameterColumn";
import { PathColumn } from "./path/PathColumn";
import { PictureColumn } from "./picture/PictureColumn";
import { saveFile } from "./drawers/saveFile";
import { useSaving } from "./saving";
import { chooseSnapshot } from "./foot/SnapshotsBar";
import { ResponsesDrawer } from "./drawers/ResponsesDrawer";
import { TracksDrawer } from "./drawers/TracksDrawer";

function hearReference(): void {
  if (useBench.getState().history.present.document.reference) setHear("reference");
}

/** A number key picks a value of the open fan, or a snapshot; 0 goes back to the bench's own setting. */
function pick(number: number): void {
  const { fan } = useMeasured.getState();
  if (useBench.getState().history.present.document.view.fan === null) {
    if (number > 0) chooseSnapshot(number - 1);
    // One that has not been measured yet is heard as soon as it is there.
  } else if (fan === null || number <= fan.count) useFanHeard.getState().choose(number === 0 ? null : number - 1);
}

/** Out of what was opened last: the large picture, then the fan. */
function stepBack(): void {
  const looking = useLooking.getState();
  const { look, history } = useBench.getState();
  if (looking.large) looking.set({ large: false });
  else if (history.present.document.view.fan) look((d) => withView(d, { fan: null }));
}

export function BenchPage() {
  const notice = useBench((s) => s.notice);
  const sound = usePlaying();
  const saving = useSaving();
  const hidden = usePart((d) => d.view.hidden);
  const large = useLooking((l) => l.large);
  const [benches, setBenches] = useState(false);
  const [tracks, setTracks] = useState(false);
  const [responses, setResponses] = useState(false);
  const [files, setFiles] = useState(false);
  const [keysShown, setKeysShown] = useState(false);

  const keys: Key[] = [
    { hotkey: "Space", shown: "Space", does: "play or pause", act: sound.toggle },
    { hotkey: "B", shown: "B", does: "hear before", act: () => setHear("before") },
    { hotkey: "A", shown: "A", does: "hear after", act: () => setHear("after") },
    { hotkey: "D", shown: "D", does: "hear the difference", act: () => setHear("difference") },
    { hotkey: "E", shown: "E", does: "level match on or off", act: toggleLevelMatch },
    { hotkey: "R", shown: "R", does: "hear the reference, if there is one", act: hearReference },
    { hotkey: "S", shown: "S", does: "one stem alone, or all of them", act: toggleAllStems },
    {
      hotkey: "L",
      shown: "L",
      does: "the picture large, or everything",
      act: () => useLooking.getState().set({ large: !useLooking.getState().large }),
    },
    { hotkey: "H", shown: "H", does: "hide or show pictures and numbers", act: toggleHidden },
    ...Array.from({ length: 10 }, (_, n) => ({
      hotkey: String(n),
      shown: n === 1 ? "1 to 9" : n === 0 ? "0" : "",
      does:
        n === 1 ? "snapshots, or the values of an open fan" : n === 0 ? "back from the fan to your own setting" : "",
      act: () => pick(n),
    })),
    { hotkey: "Escape", shown: "Esc", does: "out of the large picture, or the fan closed", act: stepBack },
    { hotkey: "mod+Z", shown: "Ctrl Z", does: "undo", act: () => useBench.getState().undo() },
    { hotkey: "mod+shift+Z", shown: "Ctrl Shift Z", does: "redo", act: () => useBench.getState().redo() },
    { hotkey: "mod+S", shown: "Ctrl S", does: "save", act: saving.save },
    { hotkey: "shift+?", shown: "?", does: "show these keys", act: () => setKeysShown(true) },
  ];
  useKeys(keys);

  return (
    <DropZone className={classes.page} data-hidden={hidden || undefined} data-large={large || undefined}>
      <Skips />
      <Header
        saving={saving.busy}
        away={saving.away}
        onSave={saving.save}
        onSaveAsNew={saving.saveAsNew}
        onBenches={() => setBenches(true)}
        onTracks={() => setTracks(true)}
        onResponses={() => setResponses(true)}
        onFiles={() => setFiles(true)}
        onKeys={() => setKeysShown(true)}
      />
      <Bringing />
      {notice && (
        <p className={classes.notice} role="alert">
          {notice}
        </p>
      )}
      <Unreadable />
      <Resting />
      <Broken />
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

      <EarMapEditor />
      <TracksDrawer opened={tracks} onClose={() => setTracks(false)} />
      <ResponsesDrawer opened={responses} onClose={() => setResponses(false)} />
      <ExportDialog opened={files} onClose={() => setFiles(false)} />
      <BenchesDrawer opened={benches} onClose={() => setBenches(false)} />
      <Modal opened={saving.stale} onClose={saving.forgive} title="This bench was saved elsewhere">
        <Text size="sm" mb="md">
          Since you opened it, somebody else, or another window, has saved this bench. Nothing is overwritten: keep your
          work as a bench of its own, or open what is saved and give your changes up.
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
              ...keys.filter(({ shown }) => shown !== "").map(({ shown, does }) => [shown, does]),
              ["Arrows", "on a control: move it; with Shift finer; Page Up and Down coarser; Home and End"],
              ["Wheel, drag", "on a control or a handle that has been taken hold of; with Shift finer"],
              ["Delete", "on a control: back to its default"],
              ["Alt and arrows", "on a stage: move it up or down the path"],
              ["Arrows, Enter", "on a picture: read the curves; play from there"],
              ["Arrows, Page keys", "on a handle in a picture: frequency and gain, or threshold; Q; with Shift finer"],
              ["Tab", "at the top of the page: straight to Play, the picture or the parameters"],
            ],
          }}
        />
        <About />
      </Modal>
    </DropZone>
  );
}

/** The first stops of the keyboard: straight to what one works with. */
function Skips() {
  const go = (css: string) => document.querySelector<HTMLElement>(css)?.focus();
  return (
    <nav className={classes.skips} aria-label="Skip to">
      <button type="button" onClick={() => go("footer button")}>
        To Play
      </button>
      <button type="button" onClick={() => go("[aria-label=Picture] [role=tab][aria-selected=true]")}>
        To the picture
      </button>
      <button type="button" onClick={() => go("[aria-label^=Parameters] button, [aria-label^=Parameters] select")}>
        To the parameters
      </button>
    </nav>
  );
}

/** Says that unsaved work on this bench cannot be read any more, and hands it out as it is. */
function Unreadable() {
  const id = useBench((s) => s.saved?.id ?? null);
  // Looked for again with every bench that is opened.
  useBench((s) => s.opened);
  const [gone, setGone] = useState<number | null | undefined>(undefined);
  const draft = unreadableDraft(id);
  if (!draft || gone === id) return null;
  const letGo = () => {
    dropUnreadable(id);
    setGone(id);
  };
  return (
    <div className={classes.notice} role="alert">
      Unsaved work on this bench cannot be read any more: {draft.why}. It is put aside in this browser.{" "}
      <Button
        size="compact-sm"
        variant="default"
        onClick={() => saveFile("clear-bend draft.json", new Blob([draft.text], { type: "application/json" }))}
      >
        Save it as a file
      </Button>{" "}
      <Button size="compact-sm" variant="default" onClick={letGo}>
        Let it go
      </Button>
    </div>
  );
}

/** Says what broke and was begun anew: measuring, or the sound. */
function Broken() {
  const measuring = useMeasured((m) => m.broke);
  const sound = useSyncExternalStore(
    (listener) => engine.onBroke(listener),
    () => engine.broke,
  );
  return [measuring, sound]
    .filter((said) => said !== null)
    .map((said) => (
      <p key={said} className={classes.notice} role="alert">
        {said}
      </p>
    ));
}

/** Says that not everything runs side by side, where the machine is too slow for that. */
function Resting() {
  const resting = useSyncExternalStore(
    (listener) => engine.onResting(listener),
    () => engine.resting,
  );
  if (!resting) return null;
  return (
    <p className={classes.notice} role="status">
      This machine is too slow to run everything side by side, so only what is heard runs: another snapshot or value
      begins from rest, a moment after it is chosen.
    </p>
  );
}
