/** What every picture needs beside the passage drawn small: one line for each. A picture without an answer does not compile. */
import {
  attack,
  bandEdges,
  distortion,
  gains,
  logFreqs,
  type MeasuringBench,
  pitch,
  responses,
  sidebands,
  staticCurve,
  step,
  swing,
  traces,
} from "../generated/wasm/clear_bend_wasm.js";
import type { PathDocument } from "../generated/types/PathDocument";
import type { Picture as PictureKind } from "../generated/types/Picture";
import {
  CURVE_POINTS,
  HIGHEST_HZ,
  LOWEST_HZ,
  SPECTROGRAM_COLUMNS,
  SPECTROGRAM_ROWS,
  SPECTRUM_COLUMNS,
} from "./frequencies";
import { type Request, ROOM_PICTURES, type RoomPicture, type Shown, type ShownBy } from "./messages";
import { roomOf } from "./rooms";

/** What an answer is read off: the bench with the path on it, the request, and the path. */
interface Asked {
  bench: MeasuringBench;
  request: Request;
  path: PathDocument;
}

/** Pictures that need nothing but what every request brings. */
type Needless = Exclude<PictureKind, Shown["picture"]>;

const NOTHING = () => null;

const room =
  <P extends RoomPicture>(picture: P) =>
  ({ bench, request, path }: Asked) => ({ view: roomOf(bench, path, request.pictured, picture) });

const ANSWERS: { [P in Shown["picture"]]: (asked: Asked) => ShownBy<P> } & { [P in Needless]: typeof NOTHING } = {
  "over-time": NOTHING,
  onsets: NOTHING,
  "near-top": NOTHING,
  "in-to-out": ({ bench, request, path }) => ({
    points: staticCurve(path, request.pictured, 1),
    before: bench.histograms()[0],
  }),
  step: ({ request, path }) => ({ response: step(path, request.pictured) }),
  harmonics: ({ request, path }) => ({ distortion: distortion(path, request.pictured) }),
  levels: ({ bench }) => {
    const [before, after] = bench.histograms();
    return { before, after };
  },
  bands: ({ bench, request: { pictured, columns }, path }) => ({
    edgesHz: bandEdges(path, pictured),
    gainsDb: Array.from({ length: bench.bandCount(pictured) }, (_, band) => bench.bandColumns(pictured, band, columns)),
  }),
  curve: ({ bench, request: { pictured, how }, path }) => {
    const spectrum = (side: number) => bench.spectrumColumns(side, how, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS);
    return { gains: gains(path, pictured, curveFreqs()), before: spectrum(0), after: spectrum(1) };
  },
  phase: (asked) => ({ responses: responsesOf(asked) }),
  ringing: (asked) => ({ responses: responsesOf(asked), attack: attack(asked.path, asked.request.pictured) }),
  spectrogram: ({ bench, request: { pictured, how } }) => {
    const [columns, rows] = [SPECTROGRAM_COLUMNS, SPECTROGRAM_ROWS];
    const side = (which: number) =>
      bench.spectrogram(which, how, pictured, columns, rows, new Float64Array([LOWEST_HZ, HIGHEST_HZ]));
    const closeness = bench.closeness(how, pictured, columns);
    return { columns, rows, before: side(0), after: side(1), closeness };
  },
  parts: ({ bench, request: { stems, work, other } }) => {
    const [ours, theirs] = [stems[work], other === null ? undefined : stems[other]];
    const parts = ours && theirs ? bench.parts(ours.strip, theirs, LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS) : null;
    return { other: other ?? work, parts };
  },
  octaves: ({ bench }) => {
    const [before, after] = bench.bandLevels(1);
    return { before, after };
  },
  decay: room("decay"),
  "decay-by-octave": room("decay-by-octave"),
  impulse: room("impulse"),
  "first-reflections": room("first-reflections"),
  falling: room("falling"),
  "falling-over-time": ({ bench, request, path }) => ({
    falling: bench.falling(path, request.pictured, SPECTROGRAM_COLUMNS),
  }),
  "under-hits": ({ bench, request }) => ({ levels: bench.underHits(request.pictured) }),
  swing: (asked) => ({ swing: swingOf(asked), seconds: asked.bench.seconds }),
  notches: (asked) => ({ swing: swingOf(asked), seconds: asked.bench.seconds }),
  sidebands: ({ request, path }) => ({ sidebands: sidebands(path, request.pictured, request.toneHz) }),
  traces: ({ request, path }) => ({ traces: traces(path, request.pictured, TRACE_COLUMNS, TRACE_ROWS) }),
  "delay-and-pitch": ({ bench, request, path }) => ({
    view: pitch(path, request.pictured, bench.seconds, PITCH_PLACES),
  }),
  "modulation-spectrum": ({ bench, request }) => ({
    spectrum: bench.modulationSpectrum(request.pictured, request.bandHz ?? 0),
  }),
  "held-wave": ({ bench }) => ({ looks: bench.waveLooks(WAVE_LOOKS, WAVE_POINTS), seconds: bench.seconds }),
  density: room("density"),
  correlation: room("correlation"),
};

/** Pictures for which the passage need not have been run through the path: they send something of their own through the stage. */
const ALONE: ReadonlySet<PictureKind> = new Set<PictureKind>([
  ...ROOM_PICTURES,
  "falling-over-time",
  "step",
  "harmonics",
  "phase",
  "ringing",
  "swing",
  "notches",
  "sidebands",
  "traces",
  "delay-and-pitch",
]);

export const standsAlone = (picture: PictureKind) => ALONE.has(picture);

/** What the picture of a request needs beside; nothing for some. */
export function shown(bench: MeasuringBench, request: Request, path: PathDocument): Shown | null {
  const answer = ANSWERS[request.picture]({ bench, request, path });
  return answer && ({ picture: request.picture, ...answer } as Shown);
}

/** What traces, pitches and looks at the wave consist of. */
const [TRACE_COLUMNS, TRACE_ROWS] = [96, 110];
const PITCH_PLACES = 400;
const [WAVE_LOOKS, WAVE_POINTS] = [48, 160];

const swingOf = ({ bench, request, path }: Asked) => swing(path, request.pictured, bench.seconds, request.columns);

const curveFreqs = () => logFreqs(LOWEST_HZ, HIGHEST_HZ, CURVE_POINTS);

const responsesOf = ({ request, path }: Asked) => responses(path, request.pictured, curveFreqs());
