/** A sound that a stage takes beside the passage: none, a stem of the bench, or any other source. */
import { NativeSelect } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";

import { api } from "../../api/client";
import { withSound, withStage } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { sentenceOf } from "../../core/faults";
import type { SoundSlot } from "../../generated/types/SoundSlot";
import type { SourceDocument } from "../../generated/types/SourceDocument";
import { useMeasured } from "../../measuring/measured";
import { isShared } from "../../measuring/sent";
import classes from "./parameters.module.css";
import { EditSound } from "../editors/EditSound";
import { nameOf, sourceGroups, sourceOf, STEM, STEM_AFTER, useTracks, valueOfSource } from "../path/sources";

const NONE = "none";
/** What the value of a response that is kept begins with, before its number. */
const KEPT = "kept:";

interface Props {
  /** The place of the stage. */
  index: number;
  slot: SoundSlot;
  sound: SourceDocument | undefined;
}

export function SoundChoice({ index, slot, sound }: Props) {
  const edit = useBench((s) => s.edit);
  const stems = usePart((d) => d.stems);
  const tracks = useTracks();
  const isGone = useMeasured((m) => sound?.track !== undefined && m.gone.includes(sound.track));
  const nameOfStem = (place: number) => stems[place] && nameOf(stems[place].source, tracks.data);
  const kept =
    useQuery({ queryKey: ["responses", "latest"], queryFn: () => api.responses.page(), enabled: slot.whole, retry: 1 })
      .data?.documents ?? [];
  const take = useMutation({
    mutationFn: async (id: number) => {
      const { name, document } = await api.responses.read(id);
      edit(`${slot.label}: ${name}`, (d) => withStage(d, index, (stage) => withSound(stage, slot.id, document.source)));
    },
  });
  const choose = (next: string) => {
    if (next.startsWith(KEPT)) return take.mutate(Number(next.slice(KEPT.length)));
    const chosen = next === NONE ? undefined : sourceOf(next, tracks.data);
    const name = !chosen
      ? slot.without
      : chosen.stem === undefined
        ? nameOf(chosen, tracks.data)
        : `${nameOfStem(chosen.stem)}${chosen.after ? ", after its path" : ""}`;
    edit(`${slot.label}: ${name}`, (d) => withStage(d, index, (stage) => withSound(stage, slot.id, chosen)));
  };
  // What comes back from a shared path drives nothing.
  const ofStems = (begin: string) =>
    stems.flatMap((stem, place) =>
      isShared(stem) ? [] : [{ value: begin + place, label: `${place + 1}: ${nameOfStem(place)}` }],
    );
  const some = stems.length > 1 || sound?.stem !== undefined;
  const used = sound?.stem === undefined ? sound : undefined;
  return (
    <div className={classes.row}>
      <NativeSelect
        size="xs"
        label={`${slot.label}: ${slot.what}`}
        value={sound ? valueOfSource(sound) : NONE}
        data={[
          { value: NONE, label: slot.without },
          ...(some
            ? [
                { group: "Stems of this bench, before their paths", items: ofStems(STEM) },
                { group: "The same, after their paths", items: ofStems(STEM_AFTER) },
              ]
            : []),
          ...(kept.length > 0
            ? [{ group: "Kept responses", items: kept.map(({ id, name }) => ({ value: KEPT + id, label: name })) }]
            : []),
          ...sourceGroups(tracks.data, used),
        ]}
        onChange={({ target }) => choose(target.value)}
      />
      {take.error && (
        <p className={classes.gone} role="alert">
          {sentenceOf(take.error)}
        </p>
      )}
      {sound && isGone && (
        <p className={classes.gone} role="alert">
          {`The track ${sound.name ? `\u201c${sound.name}\u201d` : `that begins with ${sound.track?.slice(0, 8)}`} is not kept here: bring its file, and it is heard. ${slot.whole ? `Without it: ${slot.without}.` : "Until then it is silent."}`}
        </p>
      )}
      <EditSound
        sound={sound}
        onChange={(label, next, key) =>
          edit(label, (d) => withStage(d, index, (stage) => withSound(stage, slot.id, next)), key)
        }
      />
    </div>
  );
}
