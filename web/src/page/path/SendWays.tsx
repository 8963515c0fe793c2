/** What goes from the stem at work to shared paths and what comes back, and the sum of all stems, as points under the path. */
import { sharedName } from "../../bench/sends";
import { usePart } from "../../bench/store";
import { text } from "../../core/core";
import type { Levels } from "../../generated/types/Levels";
import type { SendLevels } from "../../generated/types/SendLevels";
import { Card } from "./Card";
import classes from "./path.module.css";

interface Props {
  sum: Levels;
  ways: SendLevels[];
}

export function SendWays({ sum, ways }: Props) {
  const matched = usePart((d) => d.listening.level_match !== "off");
  return (
    <>
      {ways.map((way) => (
        <WayCard key={way.to} way={way} />
      ))}
      <Card title="All stems" levels={{ loudness_lufs: sum.loudness_lufs, peak_dbfs: sum.peak_dbfs }}>
        <span className={classes.detail}>
          {ways.length > 0 ? "with what comes back" : "together"}
          {matched && ", not matched"}
        </span>
      </Card>
    </>
  );
}

function WayCard({ way: { to, sent, back } }: { way: SendLevels }) {
  const name = usePart((d) => (d.stems[to] ? sharedName(d.stems, to) : ""));
  return (
    <div className={classes.way} data-way={to}>
      <div className={classes.title}>{name}</div>
      <dl className={classes.levels} data-shows>
        <dt>sent</dt>
        <dd>{text("lufs", sent.loudness_lufs)}</dd>
        <dt>back</dt>
        <dd>{text("lufs", back.loudness_lufs)}</dd>
      </dl>
    </div>
  );
}
