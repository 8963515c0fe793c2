/** What has been measured of the bench as it stands, as a small store fed by the worker. */
import { create } from "zustand";

import type { BendPoint } from "../generated/types/BendPoint";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { Report } from "../generated/types/Report";
import { moduleBytes } from "../core/core";
import type { Answer, Picture, Request, ToWorker } from "./messages";

/** The outcome over the whole range of a parameter. */
export interface Bend {
  /** The request that it answers. */
  id: number;
  points: BendPoint[];
}

export const bendKey = (stage: number, param: string) => `${stage} ${param}`;

interface Measured {
  picture: Picture | null;
  report: Report | null;
  curve: CurvePoint[] | null;
  /** By stage and parameter, as {@link bendKey} says. */
  bends: Record<string, Bend>;
  /** The request that each of them answers; older than the newest request means: being worked on. */
  pictureId: number;
  curveId: number;
  reportId: number;
  asked: number;
  /** Why the bench cannot be measured. */
  refusal: string | null;
}

export const useMeasured = create<Measured>()(() => ({
  picture: null,
  report: null,
  curve: null,
  bends: {},
  pictureId: 0,
  curveId: 0,
  reportId: 0,
  asked: 0,
  refusal: null,
}));

let worker: Worker | null = null;
/** The newest request whose picture has been seen on the screen. */
let drawn = 0;
let onSource: (channels: Float32Array[]) => void = () => {};

/** Starts the worker; `source` is called with the samples of every new source. */
export function startMeasuring(source: (channels: Float32Array[]) => void): void {
  onSource = source;
  worker = new Worker(new URL("./worker.ts", import.meta.url), { type: "module" });
  worker.onmessage = (event: MessageEvent<Answer>) => take(event.data);
  tell({ kind: "module", bytes: moduleBytes });
}

/** Asks for everything anew. */
export function measure(request: Omit<Request, "id">): void {
  const id = useMeasured.getState().asked + 1;
  useMeasured.setState({ asked: id });
  performance.clearMarks(`clear-bend asked ${id - 10}`);
  performance.mark(`clear-bend asked ${id}`);
  tell({ kind: "measure", request: { ...request, id } });
}

function tell(message: ToWorker): void {
  worker?.postMessage(message);
}

function take(answer: Answer): void {
  switch (answer.kind) {
    case "source":
      onSource(answer.channels);
      break;
    case "picture":
      useMeasured.setState({ picture: answer.picture, pictureId: answer.id, refusal: null });
      break;
    case "report":
      useMeasured.setState({ report: answer.report, reportId: answer.id });
      break;
    case "curve":
      useMeasured.setState({ curve: answer.points, curveId: answer.id });
      break;
    case "bend": {
      const { id, stage, param, points } = answer;
      useMeasured.setState(({ bends }) => ({ bends: { ...bends, [bendKey(stage, param)]: { id, points } } }));
      noteBend(id, param);
      break;
    }
    case "refused":
      useMeasured.setState({ refusal: answer.sentence });
      break;
  }
}

/** Notes that the picture of a request is on the screen: the time from the edit, for docs/performance.md. */
export function noteDrawn(id: number): void {
  if (id === drawn || id === 0) return;
  drawn = id;
  performance.measure("clear-bend edit to picture", { start: `clear-bend asked ${id}`, detail: id });
}

/** Notes that a bend of a request has come, in the same way. */
function noteBend(id: number, param: string): void {
  performance.measure("clear-bend edit to bend", { start: `clear-bend asked ${id}`, detail: param });
}
