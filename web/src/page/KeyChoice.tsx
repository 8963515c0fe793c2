/** What drives the detector of a stage: its own signal, another stem, or any other source. */
import { NativeSelect } from "@mantine/core";

import { withKey, withStage } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import type { SourceDocument } from "../generated/types/SourceDocument";
import classes from "./parameters.module.css";
import { keyOf, nameOf, sourceGroups, sourceOf, useTracks } from "./sources";

const OWN = "own";
const STEM = "stem:";

interface Props {
  index: number;
  keySource: SourceDocument | undefined;
}

export function KeyChoice({ index, keySource }: Props) {
  const edit = useBench((s) => s.edit);
  const stems = usePart((d) => d.stems);
  const work = usePart((d) => d.work);
  const tracks = useTracks();
  const others = stems.flatMap(({ source }, i) => (i === work ? [] : [{ value: STEM + i, label: nameOf(source, tracks.data), source }]));
  const stem = keySource && others.find(({ source }) => JSON.stringify(source) === JSON.stringify(keySource));
  const value = !keySource ? OWN : (stem?.value ?? keyOf(keySource));
  const choose = (next: string) => {
    const source = next.startsWith(STEM) ? stems[Number(next.slice(STEM.length))]?.source : next === OWN ? undefined : sourceOf(next);
    edit(source ? `Key: ${nameOf(source, tracks.data)}` : "Key: its own signal", (d) =>
      withStage(d, index, (stage) => withKey(stage, source)),
    );
  };
  return (
    <div className={classes.row}>
      <NativeSelect
        size="xs"
        label="Key: what the detector hears"
        value={value}
        data={[
          { value: OWN, label: "its own signal" },
          ...(others.length > 0 ? [{ group: "Other stems", items: others.map(({ value, label }) => ({ value, label })) }] : []),
          ...sourceGroups(tracks.data, keySource),
        ]}
        onChange={({ target }) => choose(target.value)}
      />
    </div>
  );
}
