/** The spectra of what is playing, or of the whole passage, drawn behind a curve. */
import { useCallback, useEffect, useRef } from "react";

import { engine } from "../audio/engine";
import { useLooking } from "../bench/analysing";
import { LiveSpectra } from "../core/core";
import { HIGHEST_HZ, LOWEST_HZ, SPECTRUM_COLUMNS } from "../measuring/frequencies";
import { strokeLine } from "../plot/drawing";
import type { Behind, Scales } from "../plot/PlotFrame";
import { token } from "../theme/theme";

/** Levels of the spectra lie between these, from the foot to the top of the picture, dBFS. */
export const LEVELS_DBFS: [number, number] = [-96, 0];

/** Where a level lies in the picture. */
export function levelY(s: Scales, dbfs: number): number {
  const [low, high] = LEVELS_DBFS;
  return s.bottom - ((dbfs - low) / (high - low)) * (s.bottom - s.top);
}

interface Pair {
  before: Float32Array;
  after: Float32Array;
}

/** What reads the spectra as they are on the screen: levels before and after in every column, dBFS. */
export type SpectraNow = () => Pair | null;

/** Draws the spectra before and after; those of the passage stand, those of what plays move. */
export function useSpectra(passage: Pair | null): { behind: Behind; now: SpectraNow } {
  const { how, holds, frozen, live, offsetDb } = useLooking();
  const spectra = useRef<LiveSpectra | null>(null);
  const shown = useRef<Pair | null>(passage);
  const heard = useRef(false);

  useEffect(() => {
    if (!live) return undefined;
    const taken = new LiveSpectra(JSON.stringify(how));
    spectra.current = taken;
    const stop = engine.onSeen((samples) => {
      if (useLooking.getState().frozen) return;
      taken.push(samples);
      heard.current = true;
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
    // The analyser sees what is heard; the curve is drawn without the level match.
    const matchDb = engine.matchDb;
    return { before: columns(0), after: columns(1).map((db) => db - matchDb) };
  }, [passage]);

  const behind = useCallback<Behind>(
    (context, s) => {
      const pair = read();
      shown.current = pair;
      if (!pair) return live;
      drawSpectrum(context, s, pair.after, offsetDb, "after-soft", "after", 1.1);
      drawSpectrum(context, s, pair.before, offsetDb, null, "before", 1);
      const taken = spectra.current;
      if (holds && taken && heard.current && pair !== passage) {
        const matchDb = engine.matchDb;
        const peaks = taken.held(1, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS).map((db) => db - matchDb);
        strokeLine(context, lineOf(peaks, s, offsetDb), { colour: "after", width: 0.8, dash: [1, 2] });
      }
      return live && !frozen;
    },
    [read, passage, holds, frozen, live, offsetDb],
  );
  return { behind, now: useCallback(() => shown.current, []) };
}

function lineOf(levels: Float32Array, s: Scales, offsetDb: number): [number, number][] {
  const width = (s.right - s.left) / levels.length;
  return Array.from(levels, (db, i): [number, number] => [s.left + (i + 0.5) * width, levelY(s, db + offsetDb)]);
}

function drawSpectrum(
  context: CanvasRenderingContext2D,
  s: Scales,
  levels: Float32Array,
  offsetDb: number,
  fill: string | null,
  colour: string,
  width: number,
): void {
  if (levels.length === 0) return;
  const points = lineOf(levels, s, offsetDb);
  if (fill) {
    context.beginPath();
    context.moveTo(s.left, s.bottom);
    points.forEach(([x, y]) => context.lineTo(x, y));
    context.lineTo(s.right, s.bottom);
    context.closePath();
    context.fillStyle = token(fill);
    context.fill();
  }
  strokeLine(context, points, { colour, width, share: 0.55, ...(colour === "before" ? { dash: [3, 2] } : {}) });
}
