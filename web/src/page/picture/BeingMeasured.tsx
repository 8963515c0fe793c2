/** What is being measured, once that has taken a second. */
import { useEffect, useState } from "react";

import { useMeasured } from "../../measuring/measured";
import classes from "./picture-column.module.css";

/** Nothing is said of what takes no longer than this, ms. */
const PATIENCE_MS = 1000;

export function BeingMeasured() {
  const what = useMeasured((m) => {
    if (m.refusal !== null || m.loading !== null || m.asked === 0) return null;
    if (m.running) return `The path is being run: stage ${m.running.of - m.running.left + 1} of ${m.running.of}`;
    if (m.pictureId !== m.asked) return "The picture is being measured";
    return m.reportId !== m.asked ? "The numbers are being measured" : null;
  });
  // A hand that moves asks for the next thing before the last one is there: what counts is that nothing has come.
  const last = useMeasured((m) => `${m.pictureId} ${m.reportId}`);
  const isWaiting = what !== null;
  const [lateAfter, setLateAfter] = useState<string | null>(null);
  useEffect(() => {
    if (!isWaiting) return;
    const timer = setTimeout(() => setLateAfter(last), PATIENCE_MS);
    return () => {
      clearTimeout(timer);
      setLateAfter(null);
    };
  }, [isWaiting, last]);
  return (
    <div className={classes.measuring} role="status">
      {lateAfter === last && what && <span>{what} …</span>}
    </div>
  );
}
