/** The foot of every page that plays sound: transport, what is heard, level match, snapshots, level ruler. */
import { Button, NativeSelect, SegmentedControl, Switch } from "@mantine/core";
import { useEffect, useRef, useState } from "react";

import { engine } from "../../audio/engine";
import { useHeardBlade } from "../../bench/fanHeard";
import { withListening, withView } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { signedDb } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import type { Hear } from "../../generated/types/Hear";
import type { MatchBy } from "../../generated/types/MatchBy";
import { useMeasured, useStale } from "../../measuring/measured";
import { LevelRuler } from "../../pictures/levels/LevelRuler";
import classes from "./foot.module.css";
import { SnapshotsBar } from "./SnapshotsBar";

const MATCHED_BY = {
  loudness: "by loudness",
  rms: "by RMS",
  peak: "by peak",
  silence: "silence",
  part: "a part alone, not matched",
} as const;

const MATCH_NAMES: Record<MatchBy, string> = {
  loudness: "Match loudness",
  rms: "Match RMS",
  peak: "Match peak",
  off: "No match",
};

const HEAR_NAMES: Record<Hear, string> = {
  before: "Before",
  after: "After",
  difference: "Difference",
  reference: "Reference",
};

/** Whether sound has been asked for, and why it could not be played. */
export function usePlaying() {
  const [playing, setPlaying] = useState(false);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => engine.onEnded(() => setPlaying(false)), []);
  const toggle = () => {
    if (playing) {
      engine.pause();
      setPlaying(false);
      return;
    }
    setPlaying(true);
    setFault(null);
    engine.play().catch((error: unknown) => {
      setPlaying(false);
      setFault(`This browser cannot play the bench: ${sentenceOf(error)}`);
    });
  };
  return { playing, fault, toggle };
}

export function setHear(hear: Hear): void {
  useBench.getState().look((d) => withListening(d, { hear }));
}

export function setLevelMatch(level_match: MatchBy): void {
  useBench.getState().look((d) => withListening(d, { level_match }));
}

export function toggleLevelMatch(): void {
  const { level_match } = useBench.getState().history.present.document.listening;
  setLevelMatch(level_match === "off" ? "loudness" : "off");
}

export function toggleHidden(): void {
  useBench.getState().look((d) => withView(d, { hidden: !d.view.hidden }));
}

export function toggleAllStems(): void {
  const { stems, listening } = useBench.getState().history.present.document;
  if (stems.length < 2) return;
  useBench.getState().look((d) => withListening(d, { all_stems: !listening.all_stems }));
}

export function Foot({ playing, fault, toggle }: ReturnType<typeof usePlaying>) {
  const listening = usePart((d) => d.listening);
  const hasReference = usePart((d) => d.reference !== null);
  const several = usePart((d) => d.stems.length > 1);
  const hidden = usePart((d) => d.view.hidden);
  const report = useMeasured((m) => m.report);
  const stale = useStale();
  const blade = useHeardBlade();
  const match = (blade ? blade.row : report)?.level_matches[listening.level_match];
  const heard = Object.entries(HEAR_NAMES).filter(([hear]) => hasReference || hear !== "reference");
  return (
    <footer className={classes.foot}>
      <Button
        className={classes.play}
        size="md"
        color="dark"
        variant="filled"
        onClick={toggle}
        aria-keyshortcuts="Space"
      >
        {playing ? "Pause" : "Play"}
      </Button>
      <Clock seconds={report?.seconds ?? 0} />
      <SegmentedControl
        size="sm"
        aria-label="What is heard"
        className={classes.hear}
        data-hear={listening.hear}
        data={heard.map(([value, label]) => ({ value, label }))}
        value={listening.hear}
        onChange={(value) => setHear(value as Hear)}
      />
      <div className={classes.match}>
        <NativeSelect
          size="xs"
          aria-label="Level match"
          value={listening.level_match}
          data={Object.entries(MATCH_NAMES).map(([value, label]) => ({ value, label }))}
          onChange={({ target }) => setLevelMatch(target.value as MatchBy)}
        />
        <span data-testid="match-gain" data-stale={stale}>
          {listening.level_match === "off" ? (
            "off"
          ) : match ? (
            <>
              {match.by !== "part" && <b>{signedDb(match.gain_db)}</b>} {MATCHED_BY[match.by]}
            </>
          ) : (
            "being measured"
          )}
        </span>
      </div>
      {several && <Switch size="sm" label="All stems" checked={listening.all_stems} onChange={toggleAllStems} />}
      {fault && (
        <span className={classes.fault} role="alert">
          {fault}
        </span>
      )}
      <SnapshotsBar />
      <Button
        size="xs"
        variant="default"
        aria-label={hidden ? "Show pictures" : "Hide pictures"}
        title="Pictures and numbers (H)"
        onClick={toggleHidden}
      >
        {hidden ? "Show pictures" : "Hide pictures"}
      </Button>
      <LevelRuler />
    </footer>
  );
}

function Clock({ seconds }: { seconds: number }) {
  const shown = useRef<HTMLSpanElement>(null);
  const time = (s: number) => `${Math.floor(s / 60)}:${(s % 60).toFixed(1).padStart(4, "0")}`;
  useEffect(() => {
    const show = () => {
      const said = `${time(engine.meters.position_s)} / ${time(seconds)}`;
      // The same letters again would be laid out again.
      if (shown.current && shown.current.textContent !== said) shown.current.textContent = said;
    };
    show();
    return engine.onMeters(show);
  }, [seconds]);
  return <span ref={shown} className={classes.clock} role="timer" aria-label="Place in the loop" />;
}
