/** The measures of the passage before and after, and their change. */
import { memo } from "react";

import { signedDb, text } from "../core/core";
import type { Levels } from "../generated/types/Levels";
import type { Report } from "../generated/types/Report";
import type { Unit } from "../generated/types/Unit";
import classes from "./picture-column.module.css";

interface Measure {
  name: string;
  unit: Unit;
  of: (levels: Levels) => number | null;
  /** Whether a fixed gain moves it. */
  moves: boolean;
}

const MEASURES: Measure[] = [
  { name: "Peak", unit: "dbfs", of: (l) => l.peak_dbfs, moves: true },
  { name: "True peak", unit: "dbfs", of: (l) => l.true_peak_dbtp, moves: true },
  { name: "RMS", unit: "dbfs", of: (l) => l.rms_dbfs, moves: true },
  { name: "Loudness", unit: "lufs", of: (l) => l.loudness_lufs, moves: true },
  { name: "Crest factor", unit: "db", of: (l) => l.crest_db, moves: false },
];

interface Props {
  report: Report;
  stage: number;
  levelMatch: boolean;
}

export const MeasureTable = memo(function MeasureTable({ report, stage, levelMatch }: Props) {
  const matchDb = levelMatch ? report.level_match.gain_db : 0;
  const reduction = report.reductions[stage];
  const after = (m: Measure) => {
    const value = m.of(report.after);
    return value === null ? null : value + (m.moves ? matchDb : 0);
  };
  const change = (m: Measure) => {
    const [from, to] = [m.of(report.before), after(m)];
    if (from === null || to === null) return "none";
    return signedDb(to - from);
  };
  return (
    <div className={classes.measures} role="group" aria-label="Measures" tabIndex={0}>
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
          <tr data-row="before">
            <th scope="row">Before</th>
            {MEASURES.map((m) => (
              <td key={m.name}>{text(m.unit, m.of(report.before))}</td>
            ))}
          </tr>
          <tr data-row="after">
            <th scope="row">{levelMatch ? "After, matched" : "After"}</th>
            {MEASURES.map((m) => (
              <td key={m.name}>{text(m.unit, after(m))}</td>
            ))}
          </tr>
          <tr data-row="change">
            <th scope="row">Change</th>
            {MEASURES.map((m) => (
              <td key={m.name}>{change(m)}</td>
            ))}
          </tr>
        </tbody>
      </table>
      {reduction && (
        <p>
          Gain reduction: mean <b>{text("db", reduction.mean_db)}</b>, largest <b>{text("db", reduction.largest_db)}</b>,
          during <b>{text("percent", reduction.share_of_time)}</b> of the time.
        </p>
      )}
    </div>
  );
});
