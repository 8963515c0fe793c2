/** One way for data: the document goes to the audio thread and to the measuring worker; reports come back. */
import { engine } from "../audio/engine";
import { effectOf, paramsOf } from "../core/core";
import { measure, startMeasuring, useMeasured } from "../measuring/measured";
import { useBench } from "./store";

let columns = 640;

/** Starts both sides and follows the document from now on. */
export function startWiring(): void {
  startMeasuring((channels) => engine.setSource(channels));
  let last: unknown = null;
  useBench.subscribe((state) => {
    const { document } = state.history.present;
    if (!state.ready || document === last) return;
    last = document;
    engine.setDocument(document);
    follow();
  });
  useMeasured.subscribe(applyMatch);
  useBench.subscribe(applyMatch);
}

/** The width of the picture over time, in columns. */
export function setColumns(wanted: number): void {
  if (wanted !== columns && wanted > 0) {
    columns = wanted;
    if (useBench.getState().ready) follow();
  }
}

let lastAsked = "";

function follow(): void {
  const { source, path, view } = useBench.getState().history.present.document;
  const stage = path.stages[view.stage];
  const params = stage ? paramsOf(effectOf(stage)).map((param) => param.id) : [];
  const bends = params.sort((a, b) => Number(b === view.spotlight) - Number(a === view.spotlight));
  const request = { source, path, stage: view.stage, columns, curve: view.picture === "in-to-out", bends };
  const text = JSON.stringify(request);
  if (text === lastAsked) return;
  lastAsked = text;
  measure(request);
}

let lastMatch = 0;

/** The gain of the level match goes to the ear as soon as it is known. */
function applyMatch(): void {
  const { ready, history } = useBench.getState();
  const report = useMeasured.getState().report;
  if (!ready || !report) return;
  const gainDb = history.present.document.listening.level_match ? report.level_match.gain_db : 0;
  if (gainDb !== lastMatch) {
    lastMatch = gainDb;
    engine.setMatchDb(gainDb);
  }
}
