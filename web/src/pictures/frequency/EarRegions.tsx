/** The regions of an ear map behind a curve, named along the top; those that lie over each other in rows. */
import { memo } from "react";

import { useEarRegions } from "../../bench/earMaps";
import type { EarRegion } from "../../generated/types/EarRegion";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { FREQUENCY_AXIS, placeOf } from "./frequency";

/** Names stand in rows so far under each other, pixels. */
const ROW = 14;
/** About the width of a letter of a name, pixels. */
const LETTER = 7;

interface Placed {
  region: EarRegion;
  left: number;
  right: number;
  row: number;
}

/** Every region with the first row in which its name has room. */
function placed(regions: EarRegion[], s: Scales): Placed[] {
  const [low, high] = FREQUENCY_AXIS.domain;
  const ends: number[] = [];
  return [...regions]
    .sort((a, b) => a.from_hz - b.from_hz)
    .map((region) => {
      const [left, right] = [s.x(Math.max(low, placeOf(region.from_hz))), s.x(Math.min(high, placeOf(region.to_hz)))];
      const half = Math.max(right - left, LETTER * region.name.length) / 2;
      const middle = (left + right) / 2;
      const free = ends.findIndex((end) => end <= middle - half);
      const row = free < 0 ? ends.length : free;
      ends[row] = middle + half;
      return { region, left, right, row };
    });
}

export const EarRegions = memo(function EarRegions({ scales: s }: { scales: Scales }) {
  const regions = useEarRegions();
  return placed(regions, s).map(({ region, left, right, row }, i) => (
    <g key={i}>
      <rect
        x={left}
        y={s.top}
        width={right - left}
        height={s.bottom - s.top}
        className={plot.region}
        data-odd={i % 2 === 1 || undefined}
      />
      <text
        x={(left + right) / 2}
        y={s.top + 14 + ROW * row}
        textAnchor="middle"
        className={plot.direct}
        fill="var(--mute)"
      >
        {region.name}
      </text>
    </g>
  ));
});
