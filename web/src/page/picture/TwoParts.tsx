/** This part and another stem: which one it is held against, their spectra, and where one hides the other. */
import { NativeSelect } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { usePart } from "../../bench/store";
import { text } from "../../core/core";
import { useMeasured, useShown } from "../../measuring/measured";
import { isShared } from "../../measuring/sent";
import { Masks } from "../../pictures/frequency/Masks";
import classes from "../parameters/bands.module.css";
import { nameOf, useTracks } from "../path/sources";

export function TwoParts() {
  const stems = usePart((d) => d.stems);
  const work = usePart((d) => d.work);
  const shown = useShown("parts");
  const stale = useMeasured((m) => m.shownId !== m.asked);
  const set = useLooking((l) => l.set);
  const tracks = useTracks().data;
  if (stems.filter((stem, i) => i === work || !isShared(stem)).length < 2) {
    return (
      <p className={classes.alone}>
        This stem is alone. Add another one under the path on the left, and both are held against each other here.
      </p>
    );
  }
  const name = (index: number) => (stems[index] ? nameOf(stems[index].source, tracks) : "");
  const { parts, other } = shown ?? {};
  const share = (value: number | null | undefined) => text("percent", value ?? 0);
  return (
    <div className={classes.parts}>
      <div className={classes.against}>
        <NativeSelect
          size="xs"
          aria-label="Held against"
          value={String(other ?? "")}
          data={stems.flatMap((stem, i) =>
            i === work || isShared(stem) ? [] : [{ value: String(i), label: `Against ${name(i)}` }],
          )}
          onChange={({ target }) => set({ other: Number(target.value) })}
        />
        {parts && (
          <span aria-live="polite">
            Of this part <b>{share(parts.before.first)}</b> was hidden by the other, now{" "}
            <b>{share(parts.after.first)}</b>; of the other <b>{share(parts.before.second)}</b>, now{" "}
            <b>{share(parts.after.second)}</b>.
          </span>
        )}
      </div>
      {parts && <Masks parts={parts} stale={stale} names={[name(work), name(other ?? work)]} />}
    </div>
  );
}
