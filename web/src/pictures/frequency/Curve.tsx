/**
 * The gain over frequency: every band, all of them together by the formula (thin ink) and as measured through the audio
 * (thick), over the spectra before and after. Bands are taken hold of in the picture.
 */
import { memo, useMemo } from "react";

import { useLooking } from "../../bench/analysing";
import { type Band, bandGroup, bandParam, freeBand, hasBands, withBand } from "../../bench/bands";
import { acts, withStage } from "../../bench/edits";
import { useGroups } from "../../bench/groups";
import { useBench, usePicturedStage } from "../../bench/store";
import { effectControl, effectOf, text } from "../../core/core";
import type { Scope } from "../../generated/types/Scope";
import type { Curves } from "../../generated/types/Curves";
import type { GainView } from "../../generated/types/GainView";
import type { ScopeCurve } from "../../generated/types/ScopeCurve";
import { SPECTRUM_COLUMNS } from "../../measuring/frequencies";
import type { Fan } from "../../measuring/bendWorkers";
import { noteDrawn, useMeasured, useShown } from "../../measuring/measured";
import { fanShade, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { AnalyserBar, smoothText } from "./AnalyserBar";
import { BandHandles } from "./bandHandles";
import { EarRegions } from "./EarRegions";
import { FanLabels } from "../FanLabels";
import {
  curveFreqs,
  curveLine,
  evenAxis,
  FREQUENCY_AXIS,
  freqText,
  hzAt,
  placeOf,
  pointAt,
  stageCurves,
} from "./frequency";
import { LEVELS_DBFS, levelScales, useSpectra } from "./liveSpectra";
import classes from "../pictures.module.css";

const SCOPE_NAMES: Record<Scope, string> = { stereo: "", left: "left", right: "right", mid: "mid", side: "side" };
/** The second curve of a pair is dashed, so that it is told from the first. */
const DASHES: Record<Scope, number[]> = { stereo: [], left: [], right: [7, 4], mid: [], side: [7, 4] };

function draw(context: CanvasRenderingContext2D, s: Scales, curves: Curves, measured: GainView[]): void {
  for (const { gains_db } of curves.bands) {
    strokeLine(context, curveLine(gains_db, s), { colour: "gain", width: 1, share: 0.75 });
  }
  for (const { gains_db, scope } of measured) {
    strokeLine(context, curveLine(gains_db, s), { colour: "after", width: 3.2, share: 0.75, dash: DASHES[scope] });
  }
  for (const { gains_db, scope } of curves.sums) {
    strokeLine(context, curveLine(gains_db, s), { colour: "ink", width: 1.2, dash: DASHES[scope] });
  }
}

/** The curves of every value of a fan, by the formula: one on every scope that has one of its own. */
function fanCurves(fan: Fan | null, stage: number): ScopeCurve[][] {
  return (fan?.blades ?? []).map(({ row }) => {
    const of = row.path.stages[stage];
    return (of && stageCurves(of)?.sums) ?? [];
  });
}

/** Where the curve of a value is labelled: on the scope and at the frequency where it is furthest from the others. */
function placeOfLabel(blades: ScopeCurve[][], index: number, s: Scales): [number, number] {
  const [low, high] = s.y.domain() as [number, number];
  const shown = (db: number) => Math.min(high, Math.max(low, db));
  let best = { apart: -1, gains: [] as number[], at: 0 };
  (blades[index] ?? []).forEach(({ gains_db }, c) => {
    const others = blades.filter((_, i) => i !== index).map((sums) => sums[c]?.gains_db ?? []);
    gains_db.forEach((db, at) => {
      const mean = others.reduce((sum, gains) => sum + shown(gains[at] ?? 0), 0) / Math.max(1, others.length);
      const apart = Math.abs(shown(db) - mean);
      if (apart > best.apart) best = { apart, gains: gains_db, at };
    });
  });
  const [x, y] = curveLine(best.gains, s)[best.at] ?? [s.left, s.y(0)];
  return [x, Math.min(s.bottom - 8, Math.max(s.top + 8, y))];
}

export function Curve() {
  const { stage, index } = usePicturedStage();
  const edit = useBench((s) => s.edit);
  const choose = useGroups((g) => g.choose);
  const shown = useShown("curve");
  const id = useMeasured((m) => m.shownId);
  const asked = useMeasured((m) => m.asked);
  const fan = useMeasured((m) => m.fan);
  const zoomDb = useLooking((l) => l.zoomDb);
  const smoothOctaves = useLooking((l) => l.how.smooth_octaves);
  const passage = useMemo(() => (shown ? { before: shown.before, after: shown.after } : null), [shown]);
  const reference = useMeasured((m) => m.referenceSpectrum);
  const { behind, now } = useSpectra(passage, reference);
  const curves = stage ? stageCurves(stage) : null;
  const blades = useMemo(() => fanCurves(fan, index), [fan, index]);
  if (!stage || !curves) return <div className={classes.waiting}>This effect has no curve over frequency.</div>;

  const effect = effectOf(stage);
  const measured = shown?.gains ?? [];
  // A curve that was measured for other settings would lie beside the formula.
  const fresh = id === asked;
  const heightOf = (band: Band) => {
    const own = curves.bands.find(({ number }) => number === band.number)?.gains_db;
    if (band.gainDb !== 0 && acts(stage, bandParam(effect, band.number, "gain"))) return band.gainDb;
    // What has no gain lies on its own curve; a hole is too deep for that.
    const there = own?.[pointAt(placeOf(band.freqHz))] ?? 0;
    return there < -zoomDb ? 0 : there;
  };
  const read = (x: number) => {
    const at = pointAt(x);
    const sums = curves.sums.map(
      ({ scope, gains_db }) => `${SCOPE_NAMES[scope] || "curve"} ${text("db", gains_db[at] ?? null)}`,
    );
    const fromAudio = measured.map(({ scope, gains_db }) =>
      `${SCOPE_NAMES[scope]} measured ${text("db", gains_db[at] ?? null)}`.trim(),
    );
    const spectra = now();
    const column = Math.min(SPECTRUM_COLUMNS - 1, Math.floor((at / (curveFreqs().length - 1)) * SPECTRUM_COLUMNS));
    const levels = spectra
      ? [
          `before ${text("dbfs", spectra.before[column] ?? null)}`,
          `after ${text("dbfs", spectra.after[column] ?? null)}`,
        ]
      : [];
    const ofReference = reference ? [`reference ${text("dbfs", reference[column] ?? null)}`] : [];
    return { lines: [freqText(hzAt(x)), ...sums, ...fromAudio, ...levels, ...ofReference] };
  };
  const overlay = (s: Scales) => (
    <>
      <line x1={s.left} x2={s.right} y1={s.y(0)} y2={s.y(0)} className={plot.mark} />
      {[-12, -36, -60, -84].map((dbfs) => (
        <text key={dbfs} x={s.right - 4} y={levelScales(s).y(dbfs) + 4} textAnchor="end" className={plot.inner}>
          {tickText(dbfs)}
        </text>
      ))}
      <text x={s.right} y={s.top - 8} textAnchor="end" className={plot.title}>
        Spectra, dBFS ({LEVELS_DBFS[0]} at the foot), smoothed over {smoothText(smoothOctaves)}
        {reference && <tspan fill="var(--gain)"> · reference: dotted</tspan>}
      </text>
      <EarRegions scales={s} />
      {curves.sums.length > 1 &&
        curves.sums.map(({ scope, gains_db }, i) => (
          <text
            key={scope}
            x={s.left + 8 + 60 * i}
            y={Math.min(s.bottom - 16, s.y(gains_db[pointAt(placeOf(30))] ?? 0) - 6)}
            className={plot.direct}
            fill="var(--ink)"
          >
            {SCOPE_NAMES[scope]}
            {DASHES[scope].length > 0 ? " (dashed)" : ""}
          </text>
        ))}
      <Notes scales={s} />
      {fan && <FanLabels fan={fan} scales={s} at={(blade) => placeOfLabel(blades, fan.blades.indexOf(blade), s)} />}
    </>
  );
  const addHere = (x: number, y: number) => {
    const free = freeBand(stage);
    if (free === null || !hasBands(effect)) return;
    const nearest = (which: "freq" | "gain", value: number) => {
      const control = effectControl(effect.id, bandParam(effect, free, which).id);
      return control.value(control.position(value));
    };
    const [hz, db] = [nearest("freq", hzAt(x)), nearest("gain", y)];
    edit(`Add band ${free}`, (d) => withStage(d, index, (s) => withBand(s, free, hz, db)));
    choose(effect.id, bandGroup(effect, free));
  };

  return (
    <div className={classes.over}>
      <AnalyserBar />
      <div className={classes.picture}>
        <PlotFrame
          label="Curve"
          x={FREQUENCY_AXIS}
          panes={[
            {
              title: "Gain, dB",
              axis: evenAxis(-zoomDb, zoomDb, zoomDb / 3),
              share: 1,
              draw: (context, s) => {
                if (fan)
                  blades.forEach((sums, i) =>
                    sums.forEach(({ gains_db, scope }) =>
                      strokeLine(context, curveLine(gains_db, s), {
                        colour: "after",
                        width: 1.9,
                        share: fanShade(i, fan.count),
                        dash: DASHES[scope],
                      }),
                    ),
                  );
                else draw(context, s, curves, fresh ? measured : []);
              },
              overlay,
              over: (s) => <BandHandles stage={stage} scales={s} heightOf={heightOf} />,
            },
          ]}
          read={read}
          behind={behind}
          onDouble={addHere}
          onDrawn={() => noteDrawn(asked)}
          stale={!fresh}
          version={`${asked} ${fresh} ${zoomDb} ${fan ? `${fan.id} ${fan.blades.length}` : ""}`}
        />
      </div>
    </div>
  );
}

/** The octaves of the notes along the axis: every C, with the black keys between. */
const Notes = memo(function Notes({ scales: s }: { scales: Scales }) {
  const [low, high] = FREQUENCY_AXIS.domain;
  const semitones = Array.from({ length: 120 }, (_, i) => ({ i, place: placeOf(440 * 2 ** ((i - 57) / 12)) }));
  const black = [1, 3, 6, 8, 10];
  return semitones
    .filter(({ place }) => place >= low && place <= high)
    .map(({ i, place }) => {
      const c = i % 12 === 0;
      const height = c ? 9 : black.includes(i % 12) ? 3 : 6;
      return (
        <g key={i}>
          <line
            x1={s.x(place)}
            x2={s.x(place)}
            y1={s.bottom}
            y2={s.bottom - height}
            className={plot.note}
            data-c={c || undefined}
          />
          {c && (
            <text x={s.x(place) + 2} y={s.bottom - 3} className={plot.noteName}>
              C{i / 12}
            </text>
          )}
        </g>
      );
    });
});
