/** The spectra of what is playing, or of the whole passage, drawn behind a curve. */
import { scaleLinear } from "d3-scale";
import { useCallback, useEffect, useRef, useState } from "react";

import { engine } from "../../audio/engine";
import { useLooking } from "../../bench/analysing";
import { LiveSpectra } from "../../core/core";
import { HIGHEST_HZ, LOWEST_HZ, SPECTRUM_COLUMNS } from "../../measuring/frequencies";
import { columnsOf, fillBetween, strokeLine } from "../../plot/drawing";
import type { Behind } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";

/** Levels of the spectra lie between these, from the foot to the top of the picture, dBFS. */
export const LEVELS_DBFS: [number, number] = [-96, 0];

/** The scales of a picture with levels upwards in place of gains. */
export function levelScales(s: Scales): Scales {
  return { ...s, y: scaleLinear(LEVELS_DBFS, [s.bottom, s.top]) };
}

/** Levels after, as they are without the level match: the analyser sees what is heard. */
function unmatched(levels: Float32Array): Float32Array {
  const { matchDb } = engine;
  return levels.map((db) => db - matchDb);
}

interface Pair {
  before: Float32Array;
  after: Float32Array;
}

/** What reads the spectra as they are on the screen: levels before and after in every column, dBFS. */
export type SpectraNow = () => Pair | null;

/** Draws the spectra before and after; those of the passage stand, those of what plays move. That of a reference stands, dotted. */
export function useSpectra(
  passage: Pair | null,
  reference: Float32Array | null = null,
): { behind: Behind; now: SpectraNow } {
  const { how, holds, frozen, live, offsetDb } = useLooking();
  const spectra = useRef<LiveSpectra | null>(null);
  const shown = useRef<Pair | null>(passage);
  const heard = useRef(false);
  /** Whether there is something new to be drawn at every frame: while sound comes in, and until it is seen to have stopped. */
  const [moving, setMoving] = useState(false);

  useEffect(() => {
    if (!live) return undefined;
    const taken = new LiveSpectra(how);
    spectra.current = taken;
    const stop = engine.onSeen((samples) => {
      if (useLooking.getState().frozen) return;
      taken.push(samples);
      heard.current = true;
      setMoving(true);
    });
    return () => {
      stop();
      spectra.current = null;
      heard.current = false;
      taken.free();
    };
  }, [how, live]);

  const read = useCallback((): Pair | null => {
    const taken = spectra.current;
    const { frozen } = useLooking.getState();
    // Once nothing plays, the spectra of the passage come back, unless they are to stand still.
    if (!taken || !heard.current || (!engine.meters.playing && !frozen)) return passage;
    if (!frozen) taken.read();
    const columns = (side: number) => taken.columns(side, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS);
    return { before: columns(0), after: unmatched(columns(1)) };
  }, [passage]);

  const behind = useCallback<Behind>(
    (context, s) => {
      const pair = read();
      shown.current = pair;
      if (!pair) return moving;
      const levels = levelScales(s);
      const raised = (dbfs: number) => dbfs + offsetDb;
      const after = columnsOf(pair.after, levels, raised);
      fillBetween(
        context,
        after,
        after.map(([x]) => [x, s.bottom]),
        "after-soft",
      );
      strokeLine(context, after, { colour: "after", width: 1.1, share: 0.55 });
      strokeLine(context, columnsOf(pair.before, levels, raised), {
        colour: "before",
        width: 1,
        share: 0.55,
        dash: [3, 2],
      });
      if (reference)
        strokeLine(context, columnsOf(reference, levels, raised), { colour: "gain", width: 1.4, dash: [1, 3] });
      const taken = spectra.current;
      if (holds && taken && heard.current && pair !== passage) {
        const peaks = unmatched(taken.held(1, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS));
        strokeLine(context, columnsOf(peaks, levels, raised), { colour: "after", width: 0.8, dash: [1, 2] });
      }
      const moves = live && !frozen && engine.meters.playing;
      if (!moves && moving) setMoving(false);
      return moves;
    },
    [read, passage, reference, holds, frozen, live, offsetDb, moving],
  );
  return { behind, now: useCallback(() => shown.current, []) };
}
