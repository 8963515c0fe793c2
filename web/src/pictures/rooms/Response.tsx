/** The response to an impulse with its parts, in level and as a wave: the whole of it, and its first 200 ms. */
import { text } from "../../core/core";
import type { PartColumns } from "../../generated/types/PartColumns";
import type { PartKind } from "../../generated/types/PartKind";
import type { PartsView } from "../../generated/types/PartsView";
import { drawWave, strokeLine, tickText } from "../../plot/drawing";
import { PlotFrame } from "../../plot/PlotFrame";
import type { Axis } from "../../plot/panes";
import type { Scales } from "../../plot/scales";
import plot from "../../plot/plot.module.css";
import { evenAxis } from "../frequency/frequency";
import classes from "../pictures.module.css";
import { timeAxis } from "../shared";
import { useRoom, waitingText } from "./room";

const FLOOR_DB = -100;

const PARTS: Record<PartKind | "dry", { name: string; colour: string }> = {
  dry: { name: "dry", colour: "before" },
  predelayed: { name: "pre-delayed", colour: "difference" },
  early: { name: "early", colour: "gain" },
  late: { name: "late", colour: "after" },
};

const partOf = ({ kind }: PartColumns) => PARTS[kind ?? "dry"];

/** Late lies behind all others: it is longest and fullest. */
const backToFront = (parts: PartColumns[]) => [...parts].reverse();

function levels(context: CanvasRenderingContext2D, s: Scales, part: PartColumns): void {
  const width = (s.right - s.left) / part.levels_db.length;
  const points = part.levels_db.flatMap((db, i): [number, number][] => {
    const [x, y] = [s.left + i * width, s.y(Math.max(FLOOR_DB, db ?? FLOOR_DB))];
    return [
      [x, y],
      [x + width, y],
    ];
  });
  strokeLine(context, points, { colour: partOf(part).colour, width: 1.4 });
}

function wave(context: CanvasRenderingContext2D, s: Scales, part: PartColumns): void {
  const { colour } = partOf(part);
  drawWave(context, s, part.wave, colour, { colour, width: 1 });
}

/** The highest level of everything but the dry sound, column by column, of a value of a fan. */
function envelope(context: CanvasRenderingContext2D, s: Scales, view: PartsView, share: number): void {
  const wet = view.parts.filter((part) => part.kind !== null);
  const columns = wet[0]?.levels_db.length ?? 0;
  const points = Array.from({ length: columns }, (_, i): [number, number] => {
    const highest = Math.max(FLOOR_DB, ...wet.map((part) => part.levels_db[i] ?? FLOOR_DB));
    return [s.x(((i + 0.5) / columns) * view.columns_s), s.y(highest)];
  });
  strokeLine(
    context,
    points.filter(([x]) => x <= s.right),
    { colour: "after", width: 1.6, share },
  );
}

interface Props {
  picture: "impulse" | "first-reflections";
  label: string;
}

function ResponsePicture({ picture, label }: Props) {
  const { view, drawn, fanned, version, stale } = useRoom(picture);
  if (!view) return <div className={classes.waiting}>{waitingText(view)}</div>;
  const { gap_ms: gapMs, gap_m: gapM, reflections, parts, columns_s: seconds } = view;
  const largest = Math.max(
    1e-6,
    ...parts.filter((part) => part.kind !== null).flatMap((part) => part.wave.flatMap(([low, high]) => [-low, high])),
  );
  const ms: Axis = {
    domain: [0, seconds],
    ticks: [0, 0.05, 0.1, 0.15, 0.2],
    format: (v) => `${Math.round(1000 * v)} ms`,
  };
  const first = picture === "first-reflections";
  const legend = (s: Scales) =>
    fanned ? (
      <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct} fill="var(--after)">
        fan: light to dark, all but the dry sound
      </text>
    ) : (
      <text x={s.right - 6} y={s.top + 14} textAnchor="end" className={plot.direct}>
        {parts.map((part, i) => (
          <tspan key={partOf(part).name} fill={`var(--${partOf(part).colour})`}>
            {i > 0 && " \u00b7 "}
            {partOf(part).name}
          </tspan>
        ))}
      </text>
    );
  return (
    <div className={classes.picture}>
      <PlotFrame
        label={label}
        x={first ? ms : timeAxis(fanned ? Math.max(...drawn.map((each) => each.view.columns_s)) : seconds)}
        panes={[
          {
            title: "Level of the parts against the dry impulse, dB",
            axis: evenAxis(FLOOR_DB, 0, 20),
            share: 1.5,
            draw: (context, s) => {
              if (fanned) drawn.forEach((each) => envelope(context, s, each.view, each.share));
              else backToFront(parts).forEach((part) => levels(context, s, part));
            },
            overlay: (s) => (
              <>
                {legend(s)}
                {!fanned && gapMs !== null && gapMs >= 1 && (
                  <>
                    <line
                      x1={s.x(gapMs / 1000)}
                      x2={s.x(gapMs / 1000)}
                      y1={s.top}
                      y2={s.bottom}
                      className={plot.mark}
                    />
                    <text x={s.x(gapMs / 1000) + 5} y={s.top + 14} className={plot.direct} fill="var(--mute)">
                      begins after {text("ms", gapMs)}, a way of {text("m", gapM)}
                    </text>
                  </>
                )}
              </>
            ),
          },
          {
            title: fanned ? "Wave of the left side, as it is set" : "Wave of the left side",
            axis: { domain: [-largest * 1.1, largest * 1.1], ticks: [0], format: tickText },
            share: 0.7,
            draw: (context, s) =>
              backToFront(parts.filter((part) => part.kind !== null)).forEach((part) => wave(context, s, part)),
          },
        ]}
        read={(x) => {
          const of = (part: PartColumns) => part.levels_db[Math.floor((x / seconds) * part.levels_db.length)] ?? null;
          const near = reflections.reduce<(typeof reflections)[number] | null>(
            (best, each) => (best && Math.abs(best.at_ms - 1000 * x) <= Math.abs(each.at_ms - 1000 * x) ? best : each),
            null,
          );
          const side = (db: number) =>
            Math.abs(db) < 1 ? "in the middle" : db > 0 ? `left by ${text("db", db)}` : `right by ${text("db", -db)}`;
          return {
            lines: [
              text("ms", 1000 * x),
              ...parts.map((part) => `${partOf(part).name} ${text("db", of(part))}`),
              ...(first && near
                ? [
                    `nearest reflection ${text("ms", near.at_ms)}, ${text("db", near.level_db)}, ${side(near.left_over_right_db)}`,
                  ]
                : []),
            ],
          };
        }}
        version={version}
        stale={stale}
      />
    </div>
  );
}

export const WholeResponse = () => <ResponsePicture picture="impulse" label="Response" />;
export const FirstReflections = () => <ResponsePicture picture="first-reflections" label="First 200 ms" />;
