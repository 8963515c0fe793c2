/** The values of an open fan with what is measured at each; each is heard by its button or its key. */
import { memo } from "react";

import { useFanHeard } from "../../bench/fanHeard";
import { useChosenStage, usePart } from "../../bench/store";
import { effectControl, effectOf, isUnnoticed, paramsOf, text } from "../../core/core";
import { fromFile } from "../../core/numbers";
import type { FanRow } from "../../generated/types/FanRow";
import { useMeasured } from "../../measuring/measured";
import classes from "./picture-column.module.css";

const MEAN = "mean_reduction_db";

export const FanTable = memo(function FanTable() {
  const fan = useMeasured((m) => m.fan);
  const stale = useMeasured((m) => m.fan !== null && m.fan.id !== m.asked);
  const stage = useChosenStage();
  const same = usePart((d) => d.view.fan?.same ?? null);
  const index = usePart((d) => d.view.stage);
  const now = useMeasured((m) => m.report?.outcomes[index]);
  const { index: chosen, choose } = useFanHeard();
  // Only after goes through the fan.
  const heard = usePart((d) => (d.listening.hear === "after" || d.listening.hear === "difference" ? chosen : null));
  const effect = stage && effectOf(stage);
  const param = effect && paramsOf(effect).find((p) => p.id === fan?.param);
  if (!fan || !effect || !param?.outcome) return <p role="status">Opening the fan…</p>;
  const { outcome } = param;
  // Where the outcome itself is the mean reduction, it needs no second column; and not everything reduces.
  const reduces = outcome.id !== MEAN && fan.blades.some(({ row }) => row.reduction);
  const control = effectControl(effect.id, param.id);
  const moved = same ? effectControl(effect.id, same) : null;
  const movedLabel = paramsOf(effect).find((p) => p.id === same)?.label;
  const number = (row: FanRow) => control.text(fromFile(row.value, param.default));
  const tooLittle = (row: FanRow) => {
    const own = now?.[outcome.id];
    return (
      typeof own === "number" &&
      row.outcome !== null &&
      own !== row.outcome &&
      isUnnoticed(outcome.id, own, row.outcome)
    );
  };
  const movedTo = (row: FanRow) => {
    if (!moved || row.moved_to === null) return "";
    return `${moved.text(fromFile(row.moved_to, 0))}${row.reached ? "" : ", not reached"}`;
  };
  return (
    <div
      className={`${classes.measures} ${classes.fan}`}
      role="group"
      aria-label="Fan"
      tabIndex={0}
      data-stale={stale || undefined}
    >
      <table>
        <thead>
          <tr>
            <th scope="col">{param.label}</th>
            {moved && <th scope="col">{movedLabel}</th>}
            <th scope="col">{outcome.label}</th>
            {reduces && <th scope="col">mean reduction</th>}
            <th scope="col">Peak</th>
            <th scope="col">Loudness</th>
            <th scope="col">Crest</th>
          </tr>
        </thead>
        <tbody>
          {fan.blades.map(({ row }, i) => (
            <tr key={i} data-row="fan" data-heard={i === heard || undefined}>
              <th scope="row">
                <button
                  type="button"
                  className={classes.blade}
                  aria-pressed={i === heard}
                  aria-label={`${i + 1}: Hear ${param.label} ${number(row)}`}
                  onClick={() => choose(i === heard ? null : i)}
                >
                  {i + 1}
                </button>{" "}
                {number(row)}
              </th>
              {moved && <td>{movedTo(row)}</td>}
              <td>
                {text(outcome.unit, row.outcome ?? NaN)}
                {tooLittle(row) && (
                  <small title="A change this small from your setting is not heard by itself (ISO 3382-1)">
                    {" "}
                    not audible by itself
                  </small>
                )}
              </td>
              {reduces && <td>{row.reduction ? text("db", row.reduction.mean_db) : ""}</td>}
              <td>{text("dbfs", row.levels.peak_dbfs)}</td>
              <td>{text("lufs", row.levels.loudness_lufs)}</td>
              <td>{text("db", row.levels.crest_db)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
});
