/**
 * A room by its measures, taken hold of: its plan and its elevation, what its walls are made of, where its first reflections come
 * from, and how long it rings. What is changed is a change of the bench, heard and undone like any other.
 */
import { Button } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDebouncedValue } from "@mantine/hooks";
import { useMemo, useState } from "react";

import { sourceWith } from "../../../bench/edits";
import { roomPlan, roomWithin, signalControl, signalOf } from "../../../core/core";
import { fromFile } from "../../../core/numbers";
import type { Param } from "../../../generated/types/Param";
import type { SourceDocument } from "../../../generated/types/SourceDocument";
import { measureRoom } from "../../../measuring/aside";
import { ValueField } from "../../../parts/ValueField";
import { ValueSlider } from "../../../parts/ValueSlider";
import type { Edited } from "../edited";
import { SoundDrawer } from "../../drawers/SoundDrawer";
import classes from "./room.module.css";
import { RoomBend } from "./RoomBend";
import { RoomReflections } from "./RoomReflections";
import { RoomViews } from "./RoomViews";
import { RoomWalls } from "./RoomWalls";
import type { EditedRoom } from "./editedRoom";

/** The response waits until the hand has rested for so long, ms. */
const REST_MS = 150;

export function RoomEditor({ sound, onChange, onClose }: Edited) {
  return (
    <SoundDrawer title="Room by its measures" source={sound} onClose={onClose}>
      <Content room={sound} onChange={onChange} />
    </SoundDrawer>
  );
}

interface Props {
  room: SourceDocument;
  onChange: Edited["onChange"];
}

function Content({ room, onChange }: Props) {
  const [lit, setLit] = useState(1);
  const plan = useMemo(() => roomPlan(room), [room]);
  const [rested] = useDebouncedValue(room, REST_MS);
  const measured = useQuery({
    queryKey: ["room", JSON.stringify(rested)],
    queryFn: () => measureRoom(rested),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
    networkMode: "always",
  });
  const params = signalOf(room.kind)?.params ?? [];
  const edited: EditedRoom = {
    room,
    params,
    valueOf: (param) => fromFile(room.params?.[param.id], param.default),
    set: (values, mergeKey) => {
      const said = values.map(([param, value]) => `${param.label} ${signalControl(room.kind, param.id).text(value)}`);
      onChange(said[0] ?? "Room", roomWithin(sourceWith(room, values)), mergeKey);
    },
  };
  const named = params.filter(({ group }) => group !== "Walls");
  const chosen = Math.min(lit, plan.reflections.length - 1);
  return (
    <div className={classes.room} data-of-bench>
      <RoomViews edited={edited} plan={plan} lit={chosen} />
      <div className={classes.measures}>
        {named.map((param) => (
          <Measure key={param.id} edited={edited} param={param} />
        ))}
      </div>
      <div className={classes.wide} aria-live="polite">
        {[...plan.sentences, ...(measured.data?.sentences ?? [])].map((sentence) => (
          <p key={sentence}>{sentence}</p>
        ))}
        <SteadyOrder edited={edited} steady={measured.data?.steady_order ?? null} />
      </div>
      <RoomReflections
        plan={plan}
        measured={measured.data}
        stale={measured.isPlaceholderData || rested !== room}
        lit={chosen}
        onLit={setLit}
      />
      <RoomWalls edited={edited} plan={plan} measured={measured.data} />
      <RoomBend room={rested} params={params} />
    </div>
  );
}

/** Takes the order from which on the decay hardly changes. */
function SteadyOrder({ edited, steady }: { edited: EditedRoom; steady: number | null }) {
  const order = edited.params.find(({ id }) => id === "order");
  if (!order || steady === null || edited.valueOf(order) >= steady) return null;
  return (
    <Button size="compact-sm" variant="default" onClick={() => edited.set([[order, steady]])}>
      Take order {steady}
    </Button>
  );
}

function Measure({ edited, param }: { edited: EditedRoom; param: Param }) {
  const control = signalControl(edited.room.kind, param.id);
  const value = edited.valueOf(param);
  const set = (next: number, merge: boolean) =>
    next !== value && edited.set([[param, next]], merge ? `room ${param.id}` : undefined);
  return (
    <div className={classes.measure} title={param.what}>
      <span>{param.label}</span>
      {/* Places are dragged in the plan. */}
      {param.unit === "m" && param.group === "Places" ? (
        <span />
      ) : (
        <ValueSlider
          label={param.label}
          control={control}
          value={value}
          initial={fromFile(param.default, 0)}
          onChange={(next) => set(next, true)}
        />
      )}
      <ValueField label={param.label} control={control} value={value} onChange={(next) => set(next, false)} />
    </div>
  );
}
