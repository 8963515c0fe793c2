/**
 * The one frame of all pictures: panes stacked on one horizontal axis, dense data on canvas, axes and labels as
 * SVG, and a reading line that follows the pointer and the arrow keys and reads all curves.
 */
import { useComputedColorScheme } from "@mantine/core";
import { useElementSize, useMergedRef } from "@mantine/hooks";
import { scaleLinear } from "d3-scale";
import {
  Fragment,
  type KeyboardEvent,
  memo,
  type PointerEvent,
  useContext,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";

import { IsBeside } from "../measuring/measured";
import { askedAlong } from "../parts/sliderKeys";
import { frames } from "./exporting";
import { Handle } from "./Handle";
import type { Axis, Pane } from "./panes";
import { placeApart } from "./placing";
import classes from "./plot.module.css";
import type { Scales } from "./scales";

export interface Reading {
  /** One short text per line of the reading box. */
  lines: string[];
}

interface Props {
  label: string;
  x: Axis;
  panes: Pane[];
  /** What the reading line reads at a place of the horizontal axis. */
  read: (x: number) => Reading;
  /** Calls back with a moving place, such as where playback is; returns how to stop. */
  follow?: (move: (x: number | null) => void) => () => void;
  /** A click at a place. */
  onPick?: (x: number) => void;
  /** A double click at a place of the horizontal axis and of the first pane's. */
  onDouble?: (x: number, y: number) => void;
  /** Draws what lives behind the data of the first pane, at every frame of the display; not exported. */
  behind?: Behind;
  /** Called when the data are on the screen. */
  onDrawn?: () => void;
  /** Called with the width of the data area in pixels. */
  onWidth?: (pixels: number) => void;
  /** Names the data: the canvas is drawn anew only when this changes, or its size or colours do. */
  version: string;
  /** The data are older than the settings. */
  stale?: boolean;
}

/** Draws at a time of the display, ms; returns whether it moves by itself. */
export type Behind = (context: CanvasRenderingContext2D, scales: Scales, time: number) => boolean;

/** Room that the label of a tick takes, pixels. */
const TICK_ROOM = 56;

const MARGIN = { left: 46, right: 14, top: 20, bottom: 24, between: 28 };

/** What the scales of all panes follow from. */
interface Room {
  width: number;
  height: number;
  x: Axis["domain"];
  panes: { y: Axis["domain"]; share: number }[];
}

function layout({ width, height, x, panes }: Room): Scales[] {
  const left = MARGIN.left;
  const right = Math.max(left + 1, width - MARGIN.right);
  const room = height - MARGIN.top - MARGIN.bottom - MARGIN.between * (panes.length - 1);
  const shares = panes.reduce((sum, pane) => sum + pane.share, 0);
  let top = MARGIN.top;
  return panes.map((pane) => {
    const bottom = top + Math.max(1, (room * pane.share) / shares);
    const scales = {
      x: scaleLinear(x, [left, right]),
      y: scaleLinear(pane.y, [bottom, top]),
      left,
      right,
      top,
      bottom,
    };
    top = bottom + MARGIN.between;
    return scales;
  });
}

/** The scales stay the same ones until something of them changes, and with them what is drawn by them alone. */
function useScales(width: number, height: number, x: Axis, panes: Pane[]): Scales[] {
  const of = JSON.stringify({
    width,
    height,
    x: x.domain,
    panes: panes.map(({ axis, share }) => ({ y: axis.domain, share })),
  } satisfies Room);
  return useMemo(() => layout(JSON.parse(of) as Room), [of]);
}

/** As many ticks as have room for their labels. */
function thinned(ticks: number[], x: Scales["x"]): number[] {
  const [first, second] = ticks;
  if (first === undefined || second === undefined) return ticks;
  const every = Math.max(1, Math.ceil(TICK_ROOM / Math.abs(x(second) - x(first))));
  return ticks.filter((_, i) => i % every === 0);
}

export function PlotFrame({
  label,
  x,
  panes,
  read,
  follow,
  onPick,
  onDouble,
  behind,
  onDrawn,
  onWidth,
  version,
  stale,
}: Props) {
  const { ref: sized, width, height } = useElementSize<HTMLDivElement>();
  const frame = useRef<HTMLDivElement>(null);
  const merged = useMergedRef(sized, frame);
  const playhead = useRef<HTMLDivElement>(null);
  const beside = useContext(IsBeside);
  const [place, setPlace] = useState<number | null>(null);
  const scheme = useComputedColorScheme();
  const scales = useScales(width, height, x, panes);
  const [low, high] = x.domain;
  const first = scales[0];
  const last = scales.at(-1);

  const dataWidth = first ? Math.round(first.right - first.left) : 0;
  useEffect(() => {
    // One of two beside each other says how wide they are.
    if (width > 0 && !beside) onWidth?.(dataWidth);
  }, [width, dataWidth, onWidth, beside]);

  useEffect(() => {
    if (!follow || !first) return undefined;
    return follow((at) => {
      const line = playhead.current;
      if (!line) return;
      // What is played may go on for longer than what is drawn.
      const there = at !== null && at <= high;
      line.style.visibility = there ? "visible" : "hidden";
      if (there) line.style.transform = `translateX(${first.x(at).toFixed(1)}px)`;
    });
  });

  const svg = useRef<SVGSVGElement>(null);
  useEffect(() => {
    if (svg.current) frames.set(svg.current, { panes, scales });
  });
  useLayoutEffect(() => {
    if (svg.current) placeApart(svg.current);
    // The reading line moves no letters.
  }, [panes, scales]);

  const placeOf = (event: PointerEvent) => {
    const box = frame.current?.getBoundingClientRect();
    if (!box || !first) return null;
    const at = first.x.invert(event.clientX - box.left);
    return at >= low && at <= high ? at : null;
  };

  const onKey = (event: KeyboardEvent) => {
    const from = place ?? (low + high) / 2;
    const step = ((high - low) / 100) * (event.shiftKey ? 0.2 : 1);
    const wanted = askedAlong(event);
    if (wanted) {
      event.preventDefault();
      const to = wanted.end === null ? from + step * (wanted.along + 10 * wanted.pages) : wanted.end === 0 ? low : high;
      setPlace(Math.min(high, Math.max(low, to)));
    } else if (event.key === "Enter" && place !== null) {
      onPick?.(place);
    } else if (event.key === "Escape" && place !== null) {
      // It is taken by this; the next one is the page's.
      event.preventDefault();
      setPlace(null);
    }
  };

  const reading = place === null ? null : read(place);
  const readingX = place === null || !first ? 0 : first.x(place);

  return (
    <div className={classes.outer}>
      <div
        ref={merged}
        className={classes.frame}
        data-stale={stale || undefined}
        role="slider"
        tabIndex={0}
        aria-label={`${label}: reading line`}
        aria-valuemin={low}
        aria-valuemax={high}
        aria-valuenow={place ?? low}
        aria-valuetext={reading ? reading.lines.join(", ") : "Arrow keys read the curves"}
        onPointerMove={(event) => setPlace(placeOf(event))}
        onPointerLeave={() => setPlace(null)}
        onPointerDown={(event) => {
          const at = placeOf(event);
          if (at !== null && event.button === 0) onPick?.(at);
        }}
        onDoubleClick={(event) => {
          const box = frame.current?.getBoundingClientRect();
          if (box && first)
            onDouble?.(first.x.invert(event.clientX - box.left), first.y.invert(event.clientY - box.top));
        }}
        onKeyDown={onKey}
        onBlur={() => setPlace(null)}
      >
        {behind && first && <Living behind={behind} width={width} height={height} scales={first} />}
        <Data
          version={`${scheme} ${version}`}
          width={width}
          height={height}
          panes={panes}
          scales={scales}
          onDrawn={beside ? undefined : onDrawn}
        />
        <svg ref={svg} className={classes.svg} width={width} height={height} aria-hidden data-picture={label}>
          {width > 0 &&
            panes.map((pane, i) => {
              const s = scales[i];
              return s && <PaneAxes key={pane.title} pane={pane} scales={s} />;
            })}
          {last &&
            thinned(x.ticks, last.x).map((tick) => (
              <text
                key={tick}
                x={last.x(tick)}
                y={last.bottom + 17}
                textAnchor={tick === low ? "start" : tick === high ? "end" : "middle"}
                className={classes.tick}
              >
                {x.format(tick)}
              </text>
            ))}
          {first && last && reading && (
            <line className={classes.reading} x1={readingX} x2={readingX} y1={first.top} y2={last.bottom} />
          )}
        </svg>
        {/* Not a line of the picture, whose letters would be laid out anew whenever it moves, nor exported with it. */}
        {follow && first && last && (
          <div
            ref={playhead}
            className={classes.playhead}
            style={{ top: first.top, height: last.bottom - first.top }}
            aria-hidden
          />
        )}
        {reading && (
          <div
            className={classes.box}
            style={readingX > width / 2 ? { right: width - readingX + 8 } : { left: readingX + 8 }}
          >
            {reading.lines.map((line) => (
              <div key={line}>{line}</div>
            ))}
          </div>
        )}
      </div>
      {width > 0 &&
        panes.flatMap((pane, i) => {
          const s = scales[i];
          return s
            ? (pane.handles ?? []).map((handle) => <Handle key={handle.label} handle={handle} scales={s} />)
            : [];
        })}
      {width > 0 &&
        panes.map((pane, i) => {
          const s = scales[i];
          return s && <Fragment key={pane.title}>{pane.over?.(s)}</Fragment>;
        })}
    </div>
  );
}

/** Clears a canvas and gives it its size, in pixels of the page; a canvas that has it is not laid out again. */
function cleared(context: CanvasRenderingContext2D, width: number, height: number): void {
  const { canvas } = context;
  const density = window.devicePixelRatio || 1;
  const [across, down] = [Math.round(width * density), Math.round(height * density)];
  if (canvas.width !== across) canvas.width = across;
  if (canvas.height !== down) canvas.height = down;
  context.setTransform(density, 0, 0, density, 0, 0);
  context.clearRect(0, 0, width, height);
}

interface LivingProps {
  behind: Behind;
  width: number;
  height: number;
  scales: Scales;
}

/** A canvas of its own for what moves by itself: the rest of the picture is not drawn again for it. */
function Living({ behind, width, height, scales }: LivingProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const scheme = useComputedColorScheme();
  // While a hand moves something, all of this is made anew all the time: what runs must not begin anew with it.
  const latest = useRef({ behind, scales });
  const frame = useRef(0);
  useLayoutEffect(() => {
    latest.current = { behind, scales };
  }, [behind, scales]);
  useEffect(() => {
    const draw = (time: number) => {
      frame.current = 0;
      const context = canvas.current?.getContext("2d");
      if (!context || width === 0) return;
      const start = performance.now();
      const { left, right, top, bottom } = latest.current.scales;
      cleared(context, width, height);
      context.save();
      context.beginPath();
      context.rect(left, top, right - left, bottom - top);
      context.clip();
      const moves = latest.current.behind(context, latest.current.scales, time);
      context.restore();
      // For docs/performance.md.
      performance.measure("clear-bend spectrum", { start });
      if (moves) frame.current = requestAnimationFrame(draw);
    };
    if (frame.current === 0) frame.current = requestAnimationFrame(draw);
  }, [behind, width, height, scheme, scales]);
  useEffect(() => () => cancelAnimationFrame(frame.current), []);
  return <canvas ref={canvas} className={classes.canvas} aria-hidden />;
}

interface DataProps {
  version: string;
  width: number;
  height: number;
  panes: Pane[];
  scales: Scales[];
  onDrawn?: () => void;
}

/** The dense data of all panes. Lines and labels over it may move without it being drawn again. */
const Data = memo(
  function Data({ width, height, panes, scales, onDrawn }: DataProps) {
    const canvas = useRef<HTMLCanvasElement>(null);
    useLayoutEffect(() => {
      const context = canvas.current?.getContext("2d");
      if (!context || width === 0) return;
      const start = performance.now();
      cleared(context, width, height);
      panes.forEach((pane, i) => {
        const s = scales[i];
        if (!s) return;
        context.save();
        context.beginPath();
        context.rect(s.left, s.top - 1, s.right - s.left, s.bottom - s.top + 2);
        context.clip();
        pane.draw(context, s);
        context.restore();
      });
      // For docs/performance.md.
      performance.measure("clear-bend draw", { start });
      onDrawn?.();
    });
    return <canvas ref={canvas} className={classes.canvas} aria-hidden />;
  },
  (a, b) => a.version === b.version && a.width === b.width && a.height === b.height,
);

interface RulesProps {
  title: string;
  axis: Axis;
  scales: Scales;
}

/** The title, the ticks and the rules of a pane. */
function Rules({ title, axis, scales: s }: RulesProps) {
  return (
    <>
      <text x={s.left} y={s.top - 8} className={classes.title}>
        {title}
      </text>
      {axis.ticks.map((tick) => (
        <g key={tick}>
          <line x1={s.left} x2={s.right} y1={s.y(tick)} y2={s.y(tick)} className={classes.rule} />
          <text x={s.left - 7} y={s.y(tick)} dy="0.34em" textAnchor="end" className={classes.tick}>
            {axis.format(tick)}
          </text>
        </g>
      ))}
    </>
  );
}

function PaneAxes({ pane, scales }: { pane: Pane; scales: Scales }) {
  return (
    <g>
      <Rules title={pane.title} axis={pane.axis} scales={scales} />
      {pane.overlay?.(scales)}
    </g>
  );
}
