/** The head of the page: the bench's name, saving, undo, the list of benches. */
import { ActionIcon, Button, Menu, useComputedColorScheme, useMantineColorScheme } from "@mantine/core";

import { backToSaved } from "../../bench/opening";
import { isUnsaved, useBench } from "../../bench/store";
import classes from "./header.module.css";

interface Props {
  saving: boolean;
  away: boolean;
  onSave: () => void;
  onSaveAsNew: () => void;
  onBenches: () => void;
  onTracks: () => void;
  onResponses: () => void;
  onFiles: () => void;
  onKeys: () => void;
}

export function Header({
  saving,
  away,
  onSave,
  onSaveAsNew,
  onBenches,
  onTracks,
  onResponses,
  onFiles,
  onKeys,
}: Props) {
  const name = useBench((s) => s.history.present.name);
  const { rename } = useBench.getState();
  const saved = useBench((s) => s.saved !== null);
  const shipped = useBench((s) => s.saved?.shipped === true);
  const unsaved = useBench(isUnsaved);
  const { setColorScheme } = useMantineColorScheme();
  const scheme = useComputedColorScheme("light");
  const state = saving
    ? "Saving…"
    : !unsaved
      ? shipped
        ? "Example"
        : "Saved"
      : away
        ? "Kept in this browser"
        : saved
          ? "Unsaved changes"
          : "Not saved yet";

  return (
    <header className={classes.header}>
      <h1 className={classes.brand}>
        Clear <span>Bend</span>
      </h1>
      <Button variant="subtle" color="dark" size="sm" onClick={onBenches}>
        Benches
      </Button>
      <Button variant="subtle" color="dark" size="sm" onClick={onTracks}>
        Tracks
      </Button>
      <Button variant="subtle" color="dark" size="sm" onClick={onResponses}>
        Responses
      </Button>
      <Button variant="subtle" color="dark" size="sm" onClick={onFiles}>
        Files
      </Button>
      <div className={classes.middle}>
        <input
          className={classes.name}
          aria-label="Name of the bench"
          maxLength={120}
          value={name}
          onChange={(event) => rename(event.target.value)}
        />
        <span className={classes.state} role="status" data-unsaved={unsaved || undefined}>
          {state}
        </span>
      </div>
      <div className={classes.actions}>
        <Steps />
        <Button
          color="dark"
          size="sm"
          disabled={!unsaved || saving}
          title={shipped ? "Saves a copy of your own; the example stays as it is" : undefined}
          onClick={onSave}
        >
          Save
        </Button>
        <Menu position="bottom-end">
          <Menu.Target>
            <ActionIcon variant="default" size="lg" aria-label="More ways to save" title="More ways to save">
              <Down />
            </ActionIcon>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={onSaveAsNew}>Save as a new bench</Menu.Item>
            <Menu.Item disabled={!saved || !unsaved} onClick={backToSaved}>
              Back to what is saved
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
        <ActionIcon
          variant="default"
          size="lg"
          aria-label={scheme === "dark" ? "Light page" : "Dark page"}
          title={scheme === "dark" ? "Light page" : "Dark page"}
          onClick={() => setColorScheme(scheme === "dark" ? "light" : "dark")}
        >
          {scheme === "dark" ? <Sun /> : <Moon />}
        </ActionIcon>
        <ActionIcon variant="default" size="lg" aria-label="Keys" title="Keys (?)" onClick={onKeys}>
          ?
        </ActionIcon>
      </div>
    </header>
  );
}

/** Undo and redo, each named after what it takes back: it changes with every move of a hand, the rest of the head does not. */
function Steps() {
  const lastDone = useBench((s) => s.history.past.at(-1)?.label);
  const lastUndone = useBench((s) => s.history.future.at(-1)?.label);
  const { undo, redo } = useBench.getState();
  return (
    <>
      <Button
        variant="default"
        size="sm"
        disabled={!lastDone}
        onClick={undo}
        title={lastDone ? `Undo: ${lastDone}` : "Nothing to undo"}
      >
        Undo
      </Button>
      <Button
        variant="default"
        size="sm"
        disabled={!lastUndone}
        onClick={redo}
        title={lastUndone ? `Redo: ${lastUndone}` : "Nothing to redo"}
      >
        Redo
      </Button>
    </>
  );
}

function Down() {
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden>
      <path d="M2 4l4 4 4-4" fill="none" stroke="currentColor" strokeWidth="1.5" />
    </svg>
  );
}

function Moon() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden>
      <path
        d="M13 9.5A5.5 5.5 0 0 1 6.5 3a5.5 5.5 0 1 0 6.5 6.5Z"
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
      />
    </svg>
  );
}

function Sun() {
  return (
    <svg width="16" height="16" viewBox="0 0 16 16" aria-hidden>
      <circle cx="8" cy="8" r="3.5" fill="none" stroke="currentColor" strokeWidth="1.5" />
      <path d="M8 1v2M8 13v2M1 8h2M13 8h2" stroke="currentColor" strokeWidth="1.5" />
    </svg>
  );
}
