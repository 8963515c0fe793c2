/** A room from above and from the side, with the ways of its first reflections; source and listener can be dragged, or moved by keys. */
import { type KeyboardEvent, useRef } from "react";

import { signalControl, text } from "../../../core/core";
import type { Param } from "../../../generated/types/Param";
import type { RoomPlan } from "../../../generated/types/RoomPlan";
import { asked } from "../../../parts/sliderKeys";
import { useDrag } from "../../../parts/sliding";
import classes from "./room.module.css";
import type { EditedRoom } from "./editedRoom";

const WIDTH = 420;
const HEIGHT = 390;
const EDGE = 22;
/** So many reflections are drawn at once. */
const DRAWN = 12;
/** How far the nose reaches, pixels. */
const NOSE = 18;
/** A step of a key, m; with Shift held the finer one. */
const [STEP_M, FINE_M] = [0.1, 0.01];

interface Props {
  edited: EditedRoom;
  plan: RoomPlan;
  lit: number;
}

export function RoomViews({ edited, plan, lit }: Props) {
  const [length, width, height] = plan.size_m;
  // Both views in one scale, one over the other.
  const scale = Math.min((WIDTH - 2 * EDGE) / length, (HEIGHT - 4 * EDGE) / (width + height));
  return (
    <div className={classes.views}>
      <View edited={edited} plan={plan} lit={lit} up={1} scale={scale} title="Plan" />
      <View edited={edited} plan={plan} lit={lit} up={2} scale={scale} title="Elevation" />
    </div>
  );
}

interface ViewProps extends Props {
  /** Which of the axes points up: the width, or the height. */
  up: 1 | 2;
  scale: number;
  title: string;
}

function View({ edited, plan, lit, up, scale, title }: ViewProps) {
  const svg = useRef<SVGSVGElement>(null);
  const [length, size] = [plan.size_m[0], plan.size_m[up]];
  const high = size * scale + 2 * EDGE;
  const x = (m: number) => EDGE + m * scale;
  const y = (m: number) => EDGE + (size - m) * scale;
  const way = (points: number[][]) =>
    points.map((point) => `${x(point[0] ?? 0).toFixed(1)},${y(point[up] ?? 0).toFixed(1)}`).join(" ");
  const shown = plan.reflections.slice(0, DRAWN + 1);
  const lighted = plan.reflections[lit];
  const sides = up === 1 ? ["left wall", "right wall"] : ["floor", "ceiling"];
  const named = (id: string) => edited.params.find((param) => param.id === id) as Param;
  const held = (who: "source" | "listener"): [Param, Param] => [
    named(`${who}_from_front_m`),
    named(up === 1 ? `${who}_from_left_m` : `${who}_height_m`),
  ];
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${WIDTH} ${high}`}
      className={classes.view}
      data-view={title}
      role="group"
      aria-label={title}
    >
      <rect x={x(0)} y={y(size)} width={length * scale} height={size * scale} className={classes.box} />
      <g className={classes.names} aria-hidden>
        <text x={x(0)} y={y(size) - 7}>{`${title}: ${text("m", length)} by ${text("m", size)}`}</text>
        <text x={x(length)} y={y(size) - 7} textAnchor="end">
          {sides[1]}
        </text>
        <text x={x(length)} y={y(0) + 14} textAnchor="end">
          {sides[0]}
        </text>
        <text transform={`translate(${x(0) - 7} ${y(size / 2)}) rotate(-90)`} textAnchor="middle">
          front
        </text>
        <text transform={`translate(${x(length) + 14} ${y(size / 2)}) rotate(-90)`} textAnchor="middle">
          back
        </text>
      </g>
      {shown.map(({ points_m }, i) => (
        <polyline key={i} points={way(points_m)} className={classes.way} data-direct={i === 0 || undefined} />
      ))}
      {lighted && <polyline points={way(lighted.points_m)} className={classes.lit} data-lit-way={lighted.walls} />}
      {up === 1 && <Nose ears={plan.ears_m} x={x} y={y} />}
      <Held
        name={`Source in the ${title.toLowerCase()}`}
        letter="S"
        edited={edited}
        params={held("source")}
        x={x}
        y={y}
        svg={svg}
        scale={scale}
        size={size}
      />
      <Held
        name={`Listener in the ${title.toLowerCase()}`}
        letter="L"
        edited={edited}
        params={held("listener")}
        x={x}
        y={y}
        svg={svg}
        scale={scale}
        size={size}
      />
    </svg>
  );
}

/** Where the listener looks, from above. */
function Nose({ ears, x, y }: { ears: RoomPlan["ears_m"]; x: (m: number) => number; y: (m: number) => number }) {
  const [[leftX, leftY], [rightX, rightY]] = ears;
  const [ahead, aside] = [-(rightY - leftY), rightX - leftX];
  const long = Math.hypot(ahead, aside);
  const [fromX, fromY] = [x((leftX + rightX) / 2), y((leftY + rightY) / 2)];
  return (
    <line
      x1={fromX}
      y1={fromY}
      x2={fromX + (NOSE * ahead) / long}
      y2={fromY - (NOSE * aside) / long}
      className={classes.nose}
    />
  );
}

interface HeldProps {
  name: string;
  letter: string;
  edited: EditedRoom;
  /** What lies along, and what lies up. */
  params: [Param, Param];
  x: (m: number) => number;
  y: (m: number) => number;
  svg: React.RefObject<SVGSVGElement | null>;
  scale: number;
  size: number;
}

/** A place that can be taken hold of (WAI-ARIA slider pattern; it says both of its distances). */
function Held({ name, letter, edited, params, x, y, svg, scale, size }: HeldProps) {
  const controls = params.map((param) => signalControl(edited.room.kind, param.id));
  const values = params.map((param) => edited.valueOf(param)) as [number, number];
  const box = useRef<DOMRect | null>(null);
  const put = (next: [number, number], mergeKey: string) => {
    // The core rounds to what is written, and keeps within the range.
    const rounded = next.map((value, i) => controls[i]?.value(controls[i].position(value)) ?? value);
    const moved = params.flatMap((param, i): [Param, number][] =>
      rounded[i] === values[i] ? [] : [[param, rounded[i] as number]],
    );
    if (moved.length > 0) edited.set(moved, mergeKey);
  };
  const drag = useDrag(
    (pointer) => {
      if (!box.current) return;
      const per = WIDTH / box.current.width;
      const [along, down] = [(pointer.x - box.current.left) * per, (pointer.y - box.current.top) * per];
      put([(along - EDGE) / scale, size - (down - EDGE) / scale], name);
    },
    () => {
      box.current = svg.current?.getBoundingClientRect() ?? null;
    },
  );
  const onKey = (event: KeyboardEvent) => {
    const wanted = asked(event);
    if (!wanted || wanted.end !== null) return;
    event.preventDefault();
    const step = event.shiftKey ? FINE_M : STEP_M;
    put([values[0] + step * wanted.along, values[1] + step * (wanted.up + 5 * wanted.pages)], name);
  };
  const said = params.map((param, i) => `${param.label.toLowerCase()} ${controls[i]?.text(values[i] ?? 0)}`).join(", ");
  return (
    <g
      className={classes.held}
      role="slider"
      tabIndex={0}
      aria-label={name}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * (controls[0]?.position(values[0]) ?? 0))}
      aria-valuetext={said}
      transform={`translate(${x(values[0]).toFixed(1)} ${y(values[1]).toFixed(1)})`}
      onKeyDown={onKey}
      {...drag}
    >
      <circle r={10} />
      <text textAnchor="middle" dominantBaseline="central" aria-hidden>
        {letter}
      </text>
    </g>
  );
}
