/** What is asked beside the bench, of a worker of its own: sources that are being made, while the bench is measured with them. */
import { type Remote, wrap } from "comlink";
import { useEffect, useState } from "react";

import { moduleBytes } from "../core/core";
import type { DesignView } from "../generated/types/DesignView";
import type { RoomBendPoint } from "../generated/types/RoomBendPoint";
import type { RoomMeasured } from "../generated/types/RoomMeasured";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { Calls, ToWorker } from "./messages";
import { Following } from "./newest";

interface Aside {
  calls: Remote<Calls>;
  /** Rejected once the worker has broken: whoever waits then waits no more. */
  broken: Promise<never>;
  /** Ends it; the next question goes to a new one. */
  end: (why: Error) => void;
}

let aside: Aside | null = null;

function started(): Aside {
  const worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  const { port1, port2 } = new MessageChannel();
  worker.postMessage({ kind: "module", bytes: moduleBytes, calls: port2 } satisfies ToWorker, [port2]);
  let giveUp: (why: Error) => void = () => {};
  const broken = new Promise<never>((_, reject) => (giveUp = reject));
  // Nobody need be waiting.
  broken.catch(() => {});
  const end = (why: Error) => {
    worker.terminate();
    aside = null;
    giveUp(why);
  };
  worker.onerror = (event) => end(new Error(event.message));
  return { calls: wrap<Calls>(port1), broken, end };
}

/** Asks. What is refused is thrown as it was said; a trap ends the worker, and with it all questions that wait. */
async function ask<T>(question: (calls: Remote<Calls>) => Promise<T>): Promise<T> {
  const asked = (aside ??= started());
  try {
    return await Promise.race([question(asked.calls), asked.broken]);
  } catch (error) {
    if (error instanceof Error && error.name === "RuntimeError" && aside === asked) asked.end(error);
    throw error;
  }
}

/** What is measured in the response of a room by its measures. */
export const measureRoom = (room: SourceDocument): Promise<RoomMeasured> => ask((calls) => calls.room(room));

/** How long a room rings with one of its measures at one of so many places of its range. */
export const bendRoom = (room: SourceDocument, measure: string, place: number, of: number): Promise<RoomBendPoint> =>
  ask((calls) => calls.roomBend(room, measure, place, of));

/** Columns in which the wave of a design is drawn. */
const COLUMNS = 400;

interface Followed {
  /** What was found for the design that was asked after last and is answered. */
  view: DesignView | undefined;
  /** Whether that is the design as it stands. */
  stale: boolean;
}

/** A designed response as it is seen, while a hand moves it. */
export function useDesignView(design: SourceDocument): Followed {
  const [found, setFound] = useState<{ view: DesignView; of: SourceDocument }>();
  const [newest] = useState(
    () =>
      new Following<SourceDocument>(async (of) => {
        // What cannot be made is said where the bench is measured.
        const view = await ask((calls) => calls.design(of, COLUMNS)).catch(() => null);
        if (view) setFound({ view, of });
      }),
  );
  useEffect(() => newest.put(design), [design, newest]);
  return { view: found?.view, stale: found?.of !== design };
}
