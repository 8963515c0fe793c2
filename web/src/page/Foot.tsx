/** The foot of every page that plays sound: transport, what is heard, level match, level ruler. */
import { Button, SegmentedControl, Switch } from "@mantine/core";
import { useEffect, useRef, useState } from "react";

import { engine } from "../audio/engine";
import { withListening } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { signedDb } from "../core/core";
import { sentenceOf } from "../core/faults";
import type { Hear } from "../generated/types/Hear";
import { useMeasured } from "../measuring/measured";
import { LevelRuler } from "../pictures/LevelRuler";
import classes from "./foot.module.css";

const MATCHED_BY = { loudness: "by loudness", rms: "by RMS", silence: "silence" } as const;

export const HEAR_NAMES: Record<Hear, string> = { before: "Before", after: "After", difference: "Difference" };

/** Whether sound has been asked for, and why it could not be played. */
export function usePlaying() {
  const [playing, setPlaying] = useState(false);
  const [fault, setFault] = useState<string | null>(null);
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
  useBench.getState().edit(`Hear ${HEAR_NAMES[hear].toLowerCase()}`, (d) => withListening(d, { hear }), "hear");
}

export function toggleLevelMatch(): void {
  const on = !useBench.getState().history.present.document.listening.level_match;
  useBench.getState().edit(`Level match ${on ? "on" : "off"}`, (d) => withListening(d, { level_match: on }));
}

export function Foot({ playing, fault, toggle }: ReturnType<typeof usePlaying>) {
  const listening = usePart((d) => d.listening);
  const report = useMeasured((m) => m.report);
  const match = report?.level_match;
  return (
    <footer className={classes.foot}>
      <Button className={classes.play} size="md" color="dark" variant="filled" onClick={toggle} aria-keyshortcuts="Space">
        {playing ? "Pause" : "Play"}
      </Button>
      <Clock seconds={report?.seconds ?? 0} />
      <SegmentedControl
        size="sm"
        aria-label="What is heard"
        className={classes.hear}
        data-hear={listening.hear}
        data={Object.entries(HEAR_NAMES).map(([value, label]) => ({ value, label }))}
        value={listening.hear}
        onChange={(value) => setHear(value as Hear)}
      />
      <div className={classes.match}>
        <Switch
          label="Level match"
          checked={listening.level_match}
          onChange={toggleLevelMatch}
        />
        <span data-testid="match-gain">
          {match && listening.level_match ? (
            <>
              <b>{signedDb(match.gain_db)}</b> {MATCHED_BY[match.by]}
            </>
          ) : (
            "off"
          )}
        </span>
      </div>
      {fault && (
        <span className={classes.fault} role="alert">
          {fault}
        </span>
      )}
      <LevelRuler />
    </footer>
  );
}

function Clock({ seconds }: { seconds: number }) {
  const shown = useRef<HTMLSpanElement>(null);
  const time = (s: number) => `${Math.floor(s / 60)}:${(s % 60).toFixed(1).padStart(4, "0")}`;
  useEffect(() => {
    const show = () => {
      if (shown.current) shown.current.textContent = `${time(engine.meters.position_s)} / ${time(seconds)}`;
    };
    show();
    return engine.onMeters(show);
  }, [seconds]);
  return <span ref={shown} className={classes.clock} role="timer" aria-label="Place in the loop" />;
}
