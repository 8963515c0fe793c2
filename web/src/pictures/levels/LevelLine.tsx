/** The path drawn as a line whose sideways position is the level at each point. Thick: loudness. Thin: peak. */
import type { PointLevels } from "../../generated/types/PointLevels";
import { tickText } from "../../plot/drawing";
import { useStale } from "../../measuring/measured";
import classes from "./level-line.module.css";

const LOW = -40;
const HIGH = 4;

interface Props {
  /** The levels at every point, from the source on; each holds from one height to the next. */
  points: PointLevels[];
  /** The heights at which one level bends into the next: one fewer than points. */
  bends: { from: number; to: number }[];
  /** What is sent from the last point but one and comes back into the last one, between two heights each. */
  ways: { sent: PointLevels; back: PointLevels; top: number; bottom: number }[];
  width: number;
  height: number;
}

function place(level: number | null, width: number): number {
  const share = ((level ?? LOW) - LOW) / (HIGH - LOW);
  return Math.min(1, Math.max(0, share)) * (width - 8) + 4;
}

export function LevelLine({ points, bends, ways, width, height }: Props) {
  const way = (level: (p: PointLevels) => number | null) => {
    const xs = points.map((p) => place(level(p), width));
    const steps = bends.map((bend, i) => `V${bend.from}L${xs[i + 1] ?? 0} ${bend.to}`);
    return `M${xs[0] ?? 0} 18${steps.join("")}V${height - 4}`;
  };
  const edge = place(0, width);
  return (
    <svg
      className={classes.line}
      data-stale={useStale()}
      width={width}
      height={height}
      aria-hidden
      data-picture="Level line"
    >
      {[-36, -24, -12].map((tick) => (
        <g key={tick}>
          <line x1={place(tick, width)} x2={place(tick, width)} y1={18} y2={height} className={classes.rule} />
          <text x={place(tick, width)} y={11} textAnchor="middle" className={classes.tick}>
            {tickText(tick)}
          </text>
        </g>
      ))}
      <text x={edge} y={11} textAnchor="middle" className={classes.tick}>
        0
      </text>
      <line x1={edge} x2={edge} y1={18} y2={height} className={classes.edge} />
      <path d={way((p) => p.peak_dbfs)} className={classes.peak} />
      <path d={way((p) => p.loudness_lufs)} className={classes.loudness} />
      {ways.map(({ sent, back, top, bottom }, i) => {
        const [from, out, home, to] = [points.at(-2), sent, back, points.at(-1)].map((p) =>
          place(p?.loudness_lufs ?? null, width),
        );
        const [end, middle] = [bends.at(-1)?.to ?? bottom, (top + bottom) / 2];
        return (
          <g key={i}>
            <path
              d={`M${from} ${top - 6}L${out} ${top + 14}V${middle}L${home} ${middle + 14}V${end - 18}L${to} ${end}`}
              className={classes.way}
            />
            <circle cx={from} cy={top - 6} r={3.5} className={classes.leaves} />
            <circle cx={to} cy={end} r={3.5} className={classes.returns} />
          </g>
        );
      })}
    </svg>
  );
}
