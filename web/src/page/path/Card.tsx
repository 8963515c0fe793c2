/** A point of the path with its levels. */
import type { ReactNode } from "react";

import { text } from "../../core/core";
import type { PointLevels } from "../../generated/types/PointLevels";
import { useStale } from "../../measuring/measured";
import classes from "./path.module.css";

interface Props {
  title: string;
  levels: PointLevels | undefined;
  chosen?: boolean;
  onChoose?: () => void;
  /** What stands beside the title. */
  aside?: ReactNode;
  children: ReactNode;
}

export function Card({ title, levels, chosen, onChoose, aside, children }: Props) {
  return (
    <div className={classes.card} data-point data-chosen={chosen || undefined}>
      <div className={classes.head}>
        {onChoose ? (
          <button type="button" className={classes.title} aria-pressed={chosen} onClick={onChoose}>
            {title}
          </button>
        ) : (
          <div className={classes.title}>{title}</div>
        )}
        {aside}
      </div>
      {children}
      {levels && <Levels levels={levels} />}
    </div>
  );
}

function Levels({ levels }: { levels: PointLevels }) {
  return (
    <dl className={classes.levels} data-shows data-stale={useStale()}>
      <dt>loud</dt>
      <dd>{text("lufs", levels.loudness_lufs)}</dd>
      <dt>peak</dt>
      <dd>{text("dbfs", levels.peak_dbfs)}</dd>
    </dl>
  );
}
