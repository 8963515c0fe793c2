/** A small label on a picture; lit when its parameter is in the spotlight. */
import classes from "./plot.module.css";

export function Tag({ x, y, text, lit }: { x: number; y: number; text: string; lit: boolean }) {
  const width = 12 + text.length * 6.7;
  return (
    <g transform={`translate(${x - width} ${y - 11})`}>
      <rect width={width} height={20} rx={5} className={classes.tag} data-lit={lit || undefined} />
      <text x={width / 2} y={14} textAnchor="middle" className={classes.tagText}>
        {text}
      </text>
    </g>
  );
}
