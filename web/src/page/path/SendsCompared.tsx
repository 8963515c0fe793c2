/** Shared paths beside inserts: which of the two is heard, and how their sums differ. */
import { SegmentedControl } from "@mantine/core";

import { useLooking } from "../../bench/analysing";
import { withListening, workOf } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { text } from "../../core/core";
import type { Levels } from "../../generated/types/Levels";
import type { SendsAs } from "../../generated/types/SendsAs";
import { useMeasured } from "../../measuring/measured";
import { isShared } from "../../measuring/sent";
import { Said } from "../picture/Said";
import classes from "./stems.module.css";

const WAYS: { value: SendsAs; label: string }[] = [
  { value: "shared", label: "One for all" },
  { value: "inserts", label: "An insert each" },
];

export function SendsCompared() {
  const sends = usePart((d) => d.stems.some((stem) => (stem.sends?.length ?? 0) > 0));
  const heard = usePart((d) => d.listening.sends_as);
  const all = usePart((d) => d.listening.all_stems);
  const atWork = usePart((d) => isShared(workOf(d)));
  const look = useBench((s) => s.look);
  const { comparing, set } = useLooking();
  const compared = useMeasured((m) => m.compared);
  if (!sends) return null;
  const row = (name: string, { loudness_lufs }: Levels, runs: number) => (
    <tr>
      <th scope="row">{name}</th>
      <td>{text("lufs", loudness_lufs)}</td>
      <td>{runs}</td>
    </tr>
  );
  return (
    <details
      className={classes.compared}
      open={comparing}
      onToggle={({ currentTarget }) => currentTarget.open !== comparing && set({ comparing: currentTarget.open })}
    >
      <summary>What is sent: one for all, or an insert each</summary>
      <SegmentedControl
        size="xs"
        fullWidth
        aria-label="What is sent is heard as"
        data={WAYS}
        disabled={atWork}
        value={atWork ? "shared" : heard}
        onChange={(value) => look((d) => withListening(d, { sends_as: value as SendsAs, all_stems: true }))}
      />
      {atWork && <p>While a shared path is worked on, it is heard as one for all.</p>}
      {!all && <p>Heard and measured with all stems.</p>}
      {all && !compared && <p>Measuring…</p>}
      {all && compared && (
        <>
          <table>
            <thead>
              <tr>
                <th scope="col">All stems</th>
                <th scope="col">loud</th>
                <th scope="col">runs</th>
              </tr>
            </thead>
            <tbody>
              {row("One for all", compared.shared, compared.shared_runs)}
              {row("An insert each", compared.inserts, compared.insert_runs)}
            </tbody>
          </table>
          <p aria-live="polite">
            <Said sentence={compared.sentence} />
          </p>
        </>
      )}
    </details>
  );
}
