/** How long a room rings over the range of one of its measures: measured in its response, and after Eyring. */
import { NativeSelect } from "@mantine/core";
import { useQueries } from "@tanstack/react-query";
import { useState } from "react";

import { signalControl, text } from "../../../core/core";
import type { Param } from "../../../generated/types/Param";
import type { RoomBendPoint } from "../../../generated/types/RoomBendPoint";
import type { SourceDocument } from "../../../generated/types/SourceDocument";
import { bendRoom } from "../../../measuring/aside";
import { dots, strokeLine, tickText } from "../../../plot/drawing";
import { PlotFrame } from "../../../plot/PlotFrame";
import type { Scales } from "../../../plot/scales";
import classes from "./room.module.css";

const PLACES = 9;

interface Props {
  room: SourceDocument;
  params: Param[];
}

export function RoomBend({ room, params }: Props) {
  const [measure, setMeasure] = useState("");
  const param = params.find(({ id }) => id === measure);
  return (
    <div className={classes.wide}>
      <NativeSelect
        size="xs"
        label="How long it rings over"
        value={measure}
        data={[
          { value: "", label: "no measure" },
          ...params.filter(({ id }) => id !== "seed").map(({ id, label }) => ({ value: id, label })),
        ]}
        onChange={({ target }) => setMeasure(target.value)}
      />
      {param && <Bend room={room} param={param} />}
    </div>
  );
}

function Bend({ room, param }: { room: SourceDocument; param: Param }) {
  const places = param.choices.length || PLACES;
  const points = useQueries({
    queries: Array.from({ length: places }, (_, place) => ({
      queryKey: ["room bend", JSON.stringify(room), param.id, place],
      queryFn: () => bendRoom(room, param.id, place, places),
      staleTime: Infinity,
      networkMode: "always" as const,
    })),
    combine: (answers) => answers.flatMap(({ data }) => (data ? [data] : [])),
  });
  const control = signalControl(room.kind, param.id);
  const longest = Math.max(0.5, ...points.map(({ measured_s, eyring_s }) => Math.max(measured_s ?? 0, eyring_s ?? 0)));
  const every = [0.1, 0.2, 0.5, 1, 2].find((step) => longest / step <= 5) ?? 5;
  const line = (s: Scales, of: (point: RoomBendPoint) => number | null) =>
    points.flatMap((point): [number, number][] => {
      const value = of(point);
      return value === null ? [] : [[s.x(control.position(point.value)), s.y(value)]];
    });
  const nearest = (x: number) =>
    points.reduce<RoomBendPoint | undefined>(
      (best, point) =>
        !best || Math.abs(control.position(point.value) - x) < Math.abs(control.position(best.value) - x)
          ? point
          : best,
      undefined,
    );
  return (
    <div className={classes.bend} data-bend-points={points.length}>
      <PlotFrame
        label={`Decay over ${param.label.toLowerCase()}`}
        x={{ domain: [0, 1], ticks: [0, 0.25, 0.5, 0.75, 1], format: (place) => control.text(control.value(place)) }}
        panes={[
          {
            title: `T30 at 1 kHz, s, over ${param.label.toLowerCase()}: dots measured, dashed after Eyring`,
            axis: {
              domain: [0, 1.1 * longest],
              ticks: Array.from({ length: Math.floor(longest / every) + 1 }, (_, i) => Number((i * every).toFixed(1))),
              format: tickText,
            },
            share: 1,
            draw: (context, s) => {
              strokeLine(
                context,
                line(s, ({ eyring_s }) => eyring_s),
                { colour: "ink", width: 1.2, dash: [4, 3] },
              );
              const measured = line(s, ({ measured_s }) => measured_s);
              if (param.choices.length === 0) strokeLine(context, measured, { colour: "after", width: 2 });
              dots(context, measured, 4, "after");
            },
          },
        ]}
        read={(x) => {
          const point = nearest(x);
          return {
            lines: point
              ? [
                  control.text(point.value),
                  `measured ${text("fine-s", point.measured_s)}`,
                  `after Eyring ${text("fine-s", point.eyring_s)}`,
                ]
              : [],
          };
        }}
        version={JSON.stringify(points)}
      />
    </div>
  );
}
