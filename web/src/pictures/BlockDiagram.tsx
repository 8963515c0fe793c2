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
const BOX = { width: 66, height: 26 };

export function BlockDiagram({ label, diagram, spotlight, onChoose }: Props) {
  const beside = diagram.blocks.filter((block) => block.beside);
  const along = diagram.blocks.filter((block) => !block.beside);
  const rows = beside.length > 0;
  const y = rows ? 62 : 24;
  const height = y + 22;
  // The row beside feeds the first block of the signal's row.
  const alongX = (i: number) => WIDTH - 20 - (along.length - i) * (BOX.width + 14) + BOX.width / 2 + 8;
  const besideX = (i: number) => 40 + i * (BOX.width + 22) + BOX.width / 2;
  const firstX = alongX(0);
  const turn = besideX(beside.length - 1) + BOX.width / 2 + 10;
  return (
    <svg className={classes.diagram} viewBox={`0 0 ${WIDTH} ${height}`} role="group" aria-label={`Inside the ${label}`} data-picture={`Inside the ${label}`}>
      <line x1={4} x2={WIDTH - 4} y1={y} y2={y} className={classes.wire} />
      <path d={`M${WIDTH - 10} ${y - 4}l6 4l-6 4`} className={classes.arrow} />
      {rows && <path d={`M18 ${y}V20H${turn}V41H${firstX}V${y - BOX.height / 2 - 2}`} className={classes.wire} />}
      {rows && <path d={`M${firstX - 4} ${y - BOX.height / 2 - 7}l4 6l4 -6`} className={classes.arrow} />}
      <text x={4} y={y + 15} className={classes.end}>
        in
      </text>
      <text x={WIDTH - 4} y={y + 15} textAnchor="end" className={classes.end}>
        out
      </text>
      {beside.map((block, i) => (
        <Box key={block.label} block={block} x={besideX(i)} y={20} spotlight={spotlight} onChoose={onChoose} />
      ))}
      {along.map((block, i) => (
        <Box key={block.label} block={block} x={alongX(i)} y={y} spotlight={spotlight} onChoose={onChoose} />
      ))}
    </svg>
  );
}

interface BoxProps {
  block: Block;
  x: number;
  y: number;
  spotlight: string | null;
  onChoose: (param: string) => void;
}

function Box({ block, x, y, spotlight, onChoose }: BoxProps) {
  const lit = spotlight !== null && block.params.includes(spotlight);
  const [first] = block.params;
  return (
    <g
      data-lit={lit || undefined}
      className={first ? classes.box : undefined}
      onClick={first ? () => onChoose(first) : undefined}
    >
      <rect x={x - BOX.width / 2} y={y - BOX.height / 2} width={BOX.width} height={BOX.height} rx={6} className={classes.rect} data-lit={lit || undefined} />
      <text x={x} y={y + 4.5} textAnchor="middle" className={classes.label}>
        {block.label}
      </text>
    </g>
  );
}
