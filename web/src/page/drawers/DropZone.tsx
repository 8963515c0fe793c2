/** Takes files that are dropped anywhere on the page, and says how far they have come. */
import { Button } from "@mantine/core";
import { useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useDropzone } from "react-dropzone";

import { bring, useBringing } from "./bringing";
import classes from "../bench-page.module.css";
import { InLine } from "./InLine";

interface Props {
  className: string | undefined;
  "data-hidden": true | undefined;
  "data-large": true | undefined;
  children: ReactNode;
}

/** The page, on which files may be dropped. */
export function DropZone({ className, children, ...data }: Props) {
  const client = useQueryClient();
  const { getRootProps, isDragActive } = useDropzone({
    noClick: true,
    noKeyboard: true,
    onDrop: (files) => void bring(files, client),
  });
  return (
    <div {...getRootProps({ role: undefined, tabIndex: undefined })} {...data} className={className}>
      {isDragActive && <div className={classes.drop}>Let go: sounds become tracks, path files become the path.</div>}
      {children}
    </div>
  );
}

/** How far a file has come that is being brought, and what became of it. */
export function Bringing() {
  const { name, share, fault, notice, forgive } = useBringing();
  return (
    <>
      {name !== null && (
        <p className={classes.bringing} role="status">
          {share < 1
            ? `Bringing \u201c${name}\u201d: ${Math.round(100 * share)} %`
            : `Reading \u201c${name}\u201d\u2026`}{" "}
          <progress value={share < 1 ? share : undefined} max={1} aria-label={`Bringing ${name}`} />
          {share >= 1 && <InLine />}
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
