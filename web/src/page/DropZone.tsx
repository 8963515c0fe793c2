/** Takes files that are dropped anywhere on the page, and says how far they have come. */
import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { bring, useBringing } from "./bringing";
import classes from "./bench-page.module.css";

const hasFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;

export function DropZone() {
  const client = useQueryClient();
  const [over, setOver] = useState(false);
  const { name, share, fault, notice, forgive } = useBringing();

  useEffect(() => {
    const onOver = (event: DragEvent) => {
      if (!hasFiles(event)) return;
      event.preventDefault();
      setOver(true);
    };
    const onLeave = (event: DragEvent) => {
      if (event.relatedTarget === null) setOver(false);
    };
    const onDrop = (event: DragEvent) => {
      setOver(false);
      if (!hasFiles(event) || !event.dataTransfer) return;
      event.preventDefault();
      void bring(event.dataTransfer.files, client);
    };
    window.addEventListener("dragover", onOver);
    window.addEventListener("dragleave", onLeave);
    window.addEventListener("drop", onDrop);
    return () => {
      window.removeEventListener("dragover", onOver);
      window.removeEventListener("dragleave", onLeave);
      window.removeEventListener("drop", onDrop);
    };
  }, [client]);

  return (
    <>
      {over && <div className={classes.drop}>Let go: sounds become tracks, path files become the path.</div>}
      {name !== null && (
        <p className={classes.bringing} role="status">
          {share < 1 ? `Bringing \u201c${name}\u201d: ${Math.round(100 * share)} %` : `Reading \u201c${name}\u201d\u2026`}{" "}
          <progress value={share < 1 ? share : undefined} max={1} aria-label={`Bringing ${name}`} />
        </p>
      )}
      {(fault ?? notice) && (
        <p className={classes.notice} role={fault ? "alert" : "status"}>
          {fault ?? notice}{" "}
          <Button size="compact-xs" variant="default" onClick={forgive}>
            All right
          </Button>
        </p>
      )}
    </>
  );
}
