/** The values of a fan, written at their lines; kept apart where lines lie close together. */
import { useFanHeard } from "../bench/fanHeard";
import { useChosenStage } from "../bench/store";
import { effectControl, effectOf, paramsOf } from "../core/core";
import { fromFile } from "../core/numbers";
import type { Fan } from "../measuring/bendWorkers";
import type { FanBlade } from "../measuring/messages";
import type { Scales } from "../plot/scales";
import plot from "../plot/plot.module.css";

/** Labels are at least so far apart, pixels. */
const APART = 14;

interface Props {
  fan: Fan;
  scales: Scales;
  /** Where the line of a value is labelled. */
  at: (blade: FanBlade) => [number, number];
}

export function FanLabels({ fan, scales, at }: Props) {
  const stage = useChosenStage();
  const heard = useFanHeard((s) => s.index);
  const effect = stage && effectOf(stage);
  const param = effect && paramsOf(effect).find((p) => p.id === fan.param);
  if (!effect || !param) return null;
  const control = effectControl(effect.id, param.id);
  const labels = fan.blades.map((blade, i) => {
    const [x, y] = at(blade);
    return { i, x, y, text: control.text(fromFile(blade.row.value, param.default)) };
  });
  labels.sort((a, b) => a.y - b.y);
  labels.forEach((label, k) => {
    const above = labels[k - 1];
    if (above) label.y = Math.max(label.y, above.y + APART);
  });
  // What was pushed over the edge comes back up.
  labels.reduceRight((limit, label) => (label.y = Math.min(label.y, limit)) - APART, scales.bottom - 4);
  return (
    <>
      {labels.map(({ i, x, y, text }) => {
        const right = x > (scales.left + scales.right) / 2;
        return (
          <text
            key={i}
            x={right ? x - 6 : x + 6}
            y={y + 4}
            textAnchor={right ? "end" : "start"}
            className={plot.direct}
            fill="var(--after)"
            fontWeight={i === heard ? 700 : 450}
          >
            {i === heard ? `▸ ${text}` : text}
          </text>
        );
      })}
    </>
  );
}
