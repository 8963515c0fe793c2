/** The measures of the passage before and after, and their change; beside them the sum of all stems and a reference. */
import { useViewportSize } from "@mantine/hooks";
import { memo } from "react";

import { useShallow } from "zustand/react/shallow";

import { useLooking } from "../../bench/analysing";
import { signedDb, text } from "../../core/core";
import type { Levels } from "../../generated/types/Levels";
import type { MatchBy } from "../../generated/types/MatchBy";
import type { Report } from "../../generated/types/Report";
import type { Unit } from "../../generated/types/Unit";
import { useMeasured, useStale } from "../../measuring/measured";
import { isMatched } from "../../measuring/said";
import classes from "./picture-column.module.css";

interface Measure {
  name: string;
  /** Within a sentence. */
  inside: string;
  unit: Unit;
  of: (levels: Levels) => number | null;
  /** Whether a fixed gain moves it. */
  moves: boolean;
}

const MEASURES: Measure[] = [
  { name: "Peak", inside: "peak", unit: "dbfs", of: (l) => l.peak_dbfs, moves: true },
  { name: "True peak", inside: "true peak", unit: "dbfs", of: (l) => l.true_peak_dbtp, moves: true },
  { name: "RMS", inside: "RMS", unit: "dbfs", of: (l) => l.rms_dbfs, moves: true },
  { name: "Loudness", inside: "loudness", unit: "lufs", of: (l) => l.loudness_lufs, moves: true },
  { name: "Crest factor", inside: "crest factor", unit: "db", of: (l) => l.crest_db, moves: false },
];

/** In a lower window the picture needs the room, px. */
const HIGH_ENOUGH = 760;

interface Line {
  name: string;
  kind: string;
  levels: Levels;
  /** A fixed gain that is heard and therefore counted, dB. */
  gainDb?: number;
}

interface Props {
  report: Report;
  stage: number;
  matchBy: MatchBy;
}

export const MeasureTable = memo(function MeasureTable({ report, stage, matchBy }: Props) {
  const sum = useMeasured((m) => m.sum);
  const reference = useMeasured((m) => m.reference);
  const stale = useStale();
  const { tableOpen, large, set } = useLooking(useShallow(({ tableOpen, large, set }) => ({ tableOpen, large, set })));
  const { height } = useViewportSize();
  // Before it is measured, a window has no height.
  const open = tableOpen ?? (!large && !sum && !reference && (height === 0 || height >= HIGH_ENOUGH));
  const gainDb = report.level_matches[matchBy].gain_db;
  const reduction = report.reductions[stage];
  const pumping = report.stages[stage]?.pumping;
  const value = ({ levels, gainDb = 0 }: Line, m: Measure) => {
    const level = m.of(levels);
    return level === null ? null : level + (m.moves ? gainDb : 0);
  };
  const before: Line = { name: "Before", kind: "before", levels: report.before };
  const after: Line = {
    name: isMatched(report, matchBy) ? "After, matched" : "After",
    kind: "after",
    levels: report.after,
    gainDb,
  };
  const beside: Line[] = [
    ...(sum ? [{ name: "All stems, before", kind: "sum-before", levels: sum.before }] : []),
    ...(sum
      ? [
          {
            name: matchBy === "off" ? "All stems, after" : "All stems, after, not matched",
            kind: "sum-after",
            levels: sum.after,
          },
        ]
      : []),
    ...(reference
      ? [{ name: "Reference, matched", kind: "reference", levels: reference.levels, gainDb: reference.match_gain_db }]
      : []),
  ];
  const change = (m: Measure) => {
    const [from, to] = [value(before, m), value(after, m)];
    return from === null || to === null ? "none" : signedDb(to - from);
  };
  const row = (line: Line) => (
    <tr key={line.kind} data-row={line.kind}>
      <th scope="row">{line.name}</th>
      {MEASURES.map((m) => (
        <td key={m.name}>{text(m.unit, value(line, m))}</td>
      ))}
    </tr>
  );
  return (
    <details
      className={classes.measures}
      aria-label="Measures"
      open={open}
      data-stale={stale}
      // A change that the page makes by itself comes here too.
      onToggle={({ currentTarget }) => currentTarget.open !== open && set({ tableOpen: currentTarget.open })}
    >
      <summary>
        {open
          ? "Measures"
          : MEASURES.map((m, i) => (
              <span key={m.name}>
                {i === 0 ? `${after.name}: ` : ", "}
                {m.inside} <b>{text(m.unit, value(after, m))}</b>
              </span>
            ))}
      </summary>
      <table>
        <thead>
          <tr>
            <th scope="col">
              <span className={classes.hidden}>Signal</span>
            </th>
            {MEASURES.map((m) => (
              <th key={m.name} scope="col">
                {m.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {row(before)}
          {row(after)}
          <tr data-row="change">
            <th scope="row">Change</th>
            {MEASURES.map((m) => (
              <td key={m.name}>{change(m)}</td>
            ))}
          </tr>
          {beside.map(row)}
        </tbody>
      </table>
      {reduction && (
        <p>
          Gain reduction: mean <b>{text("db", reduction.mean_db)}</b>, largest <b>{text("db", reduction.largest_db)}</b>
          , during <b>{text("percent", reduction.share_of_time)}</b> of the time
          {pumping && (
            <>
              ; it pumps by <b>{text("db", pumping.depth_db)}</b>
            </>
          )}
          .
        </p>
      )}
      <p>
        Room for make-up before full scale: <b>{text("db", report.room_db)}</b>.{" "}
        {report.before.range_lu !== null && report.after.range_lu !== null ? (
          <>
            Loudness range <b>{text("db", report.before.range_lu)}</b> before,{" "}
            <b>{text("db", report.after.range_lu)}</b> after
          </>
        ) : (
          <>No loudness range: under 4 s, or silence</>
        )}
        {report.before.evenness_lu !== null && report.after.evenness_lu !== null && (
          <>
            ; phrases differ by <b>{text("db", report.before.evenness_lu)}</b> before,{" "}
            <b>{text("db", report.after.evenness_lu)}</b> after
          </>
        )}
        .
      </p>
    </details>
  );
});
