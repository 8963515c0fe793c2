/**
 * How the signal runs through an effect. The block in which the parameter in the spotlight acts is lit; a click on a
 * block puts its first parameter in the spotlight.
 */
import type { Block } from "../generated/types/Block";
import type { Diagram } from "../generated/types/Diagram";
import classes from "./block-diagram.module.css";

interface Props {
  label: string;
  diagram: Diagram;
  spotlight: string | null;
  onChoose: (param: string) => void;
}

const WIDTH = 318;
const MOST_WIDTH = 66;
const HEIGHT = 26;

/** The middles of some boxes between two places, and their width. */
function row(count: number, from: number, to: number): { width: number; x: (i: number) => number } {
  const each = (to - from) / Math.max(1, count);
  const width = Math.min(MOST_WIDTH, each - 6);
  return { width, x: (i) => from + (i + 0.5) * each };
}

export function BlockDiagram({ label, diagram, spotlight, onChoose }: Props) {
  const beside = diagram.blocks.filter((block) => block.beside);
  const along = diagram.blocks.filter((block) => !block.beside);
  const rows = beside.length > 0;
  const y = rows ? 62 : 24;
  const height = y + 22;
  // The row beside is fed behind the blocks that come before it, and acts on the one that it joins, or that follows.
  const earlier = Math.max(
    0,
    diagram.blocks.findIndex((block) => block.beside),
  );
  const signal = row(along.length, 18, WIDTH - 26);
  const side = row(beside.length, earlier > 0 ? 40 : 30, WIDTH - 24);
  const tap = earlier > 0 ? (signal.x(earlier - 1) + signal.x(earlier)) / 2 : 18;
  const joined = along.findIndex((block) => block.label === diagram.joins);
  const target = signal.x(joined < 0 ? earlier : joined);
  const turn = side.x(beside.length - 1) + side.width / 2 + 8;
  return (
    <svg
      className={classes.diagram}
      viewBox={`0 0 ${WIDTH} ${height}`}
      role="group"
      aria-label={`Inside the ${label}`}
      data-picture={`Inside the ${label}`}
    >
      <line x1={4} x2={WIDTH - 4} y1={y} y2={y} className={classes.wire} />
      <path d={`M${WIDTH - 10} ${y - 4}l6 4l-6 4`} className={classes.arrow} />
      {rows && (
        <path
          d={`M${tap} ${y}V${earlier > 0 ? 38 : 20}H18V20H${turn}V42H${target}V${y - HEIGHT / 2 - 2}`}
          className={classes.wire}
        />
      )}
      {rows && <path d={`M${target - 4} ${y - HEIGHT / 2 - 7}l4 6l4 -6`} className={classes.arrow} />}
      <text x={2} y={y - 8} className={classes.end}>
        in
      </text>
      <text x={WIDTH - 3} y={y - 8} textAnchor="end" className={classes.end}>
        out
      </text>
      {beside.map((block, i) => (
        <Box
          key={block.label}
          block={block}
          x={side.x(i)}
          width={side.width}
          y={20}
          spotlight={spotlight}
          onChoose={onChoose}
        />
      ))}
      {along.map((block, i) => (
        <Box
          key={block.label}
          block={block}
          x={signal.x(i)}
          width={signal.width}
          y={y}
          spotlight={spotlight}
          onChoose={onChoose}
        />
      ))}
    </svg>
  );
}

interface BoxProps {
  block: Block;
  x: number;
  width: number;
  y: number;
  spotlight: string | null;
  onChoose: (param: string) => void;
}

function Box({ block, x, width, y, spotlight, onChoose }: BoxProps) {
  const lit = spotlight !== null && block.params.includes(spotlight);
  const [first] = block.params;
  return (
    <g
      data-lit={lit || undefined}
      className={first ? classes.box : undefined}
      onClick={first ? () => onChoose(first) : undefined}
    >
      <rect
        x={x - width / 2}
        y={y - HEIGHT / 2}
        width={width}
        height={HEIGHT}
        rx={6}
        className={classes.rect}
        data-lit={lit || undefined}
      />
      <text
        x={x}
        y={y + 4.5}
        textAnchor="middle"
        className={classes.label}
        data-small={width < 38 ? "very" : width < 54 ? "" : undefined}
      >
        {block.label}
      </text>
    </g>
  );
}
