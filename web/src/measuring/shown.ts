/** What every picture needs beside the passage drawn small: one line for each. A picture without an answer does not compile. */
import { attackJson, bandEdges, distortionJson, gainsJson, logFreqs, type MeasuringBench, pitchJson, responsesJson, sidebandsJson, staticCurveJson, stepJson, swingJson, tracesJson } from "../generated/wasm/clear_bend_wasm.js";
import type { Attack } from "../generated/types/Attack";
import type { BandLevel } from "../generated/types/BandLevel";
import type { Closeness } from "../generated/types/Closeness";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { Distortion } from "../generated/types/Distortion";
import type { GainView } from "../generated/types/GainView";
import type { Falling } from "../generated/types/Falling";
import type { Histogram } from "../generated/types/Histogram";
import type { ModulationSpectrum } from "../generated/types/ModulationSpectrum";
import type { Parts } from "../generated/types/Parts";
import type { PitchView } from "../generated/types/PitchView";
import type { Picture as PictureKind } from "../generated/types/Picture";
import type { ResponseView } from "../generated/types/ResponseView";
import type { Sidebands } from "../generated/types/Sidebands";
import type { StepResponse } from "../generated/types/StepResponse";
import type { SwingView } from "../generated/types/SwingView";
import type { Traces } from "../generated/types/Traces";
import type { UnderHits } from "../generated/types/UnderHits";
import type { WaveLook } from "../generated/types/WaveLook";
import { CURVE_POINTS, HIGHEST_HZ, LOWEST_HZ, SPECTROGRAM_COLUMNS, SPECTROGRAM_ROWS, SPECTRUM_COLUMNS } from "./frequencies";
import { type Request, ROOM_PICTURES, type RoomPicture, type Shown, type ShownBy } from "./messages";
import { roomOf } from "./rooms";

/** What an answer is read off: the bench with the path on it, the request, and the path as JSON. */
interface Asked {
  bench: MeasuringBench;
  request: Request;
  path: string;
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
  "in-to-out": ({ bench, request, path }) => ({ points: JSON.parse(staticCurveJson(path, request.pictured, 1)) as CurvePoint[], before: histograms(bench)[0] }),
  step: ({ request, path }) => ({ response: JSON.parse(stepJson(path, request.pictured)) as StepResponse | null }),
  harmonics: ({ request, path }) => ({ distortion: JSON.parse(distortionJson(path, request.pictured)) as Distortion }),
  levels: ({ bench }) => {
    const [before, after] = histograms(bench);
    return { before, after };
  },
  bands: ({ bench, request: { pictured, columns }, path }) => ({
    edgesHz: bandEdges(path, pictured),
    gainsDb: Array.from({ length: bench.bandCount(pictured) }, (_, band) => bench.bandColumns(pictured, band, columns)),
  }),
  curve: ({ bench, request: { pictured, how }, path }) => {
    const spectrum = (side: number) => bench.spectrumColumns(side, JSON.stringify(how), LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS);
    return { gains: JSON.parse(gainsJson(path, pictured, curveFreqs())) as GainView[], before: spectrum(0), after: spectrum(1) };
  },
  phase: (asked) => ({ responses: responses(asked) }),
  ringing: (asked) => ({ responses: responses(asked), attack: JSON.parse(attackJson(asked.path, asked.request.pictured)) as Attack }),
  spectrogram: ({ bench, request: { pictured, how } }) => {
    const [columns, rows] = [SPECTROGRAM_COLUMNS, SPECTROGRAM_ROWS];
    const side = (which: number) => bench.spectrogram(which, JSON.stringify(how), pictured, columns, rows, new Float64Array([LOWEST_HZ, HIGHEST_HZ]));
    const closeness = JSON.parse(bench.closenessJson(JSON.stringify(how), pictured, columns)) as Closeness;
    return { columns, rows, before: side(0), after: side(1), closeness };
  },
  parts: ({ bench, request: { stems, work, other } }) => {
    const [strip, theirs] = [JSON.stringify(stems[work]?.strip), other === null ? undefined : stems[other]];
    const parts = theirs ? (JSON.parse(bench.partsJson(strip, JSON.stringify(theirs), LOWEST_HZ, HIGHEST_HZ, SPECTRUM_COLUMNS)) as Parts) : null;
    return { other: other ?? work, parts };
  },
  octaves: ({ bench }) => {
    const [before, after] = JSON.parse(bench.bandLevelsJson(1)) as [BandLevel[], BandLevel[]];
    return { before, after };
  },
  decay: room("decay"),
  "decay-by-octave": room("decay-by-octave"),
  impulse: room("impulse"),
  "first-reflections": room("first-reflections"),
  falling: room("falling"),
  "falling-over-time": ({ bench, request, path }) => ({ falling: JSON.parse(bench.fallingJson(path, request.pictured, SPECTROGRAM_COLUMNS)) as Falling | null }),
  "under-hits": ({ bench, request }) => ({ levels: JSON.parse(bench.underHitsJson(request.pictured)) as UnderHits | null }),
  swing: (asked) => ({ swing: swingOf(asked), seconds: asked.bench.seconds }),
  notches: (asked) => ({ swing: swingOf(asked), seconds: asked.bench.seconds }),
  sidebands: ({ request, path }) => ({ sidebands: JSON.parse(sidebandsJson(path, request.pictured, request.toneHz)) as Sidebands | null }),
  traces: ({ request, path }) => ({ traces: JSON.parse(tracesJson(path, request.pictured, TRACE_COLUMNS, TRACE_ROWS)) as Traces | null }),
  "delay-and-pitch": ({ bench, request, path }) => ({ view: JSON.parse(pitchJson(path, request.pictured, bench.seconds, PITCH_PLACES)) as PitchView | null }),
  "modulation-spectrum": ({ bench, request }) => ({ spectrum: JSON.parse(bench.modulationSpectrumJson(request.pictured, request.bandHz ?? 0)) as ModulationSpectrum }),
  "held-wave": ({ bench }) => ({ looks: JSON.parse(bench.waveLooksJson(WAVE_LOOKS, WAVE_POINTS)) as WaveLook[], seconds: bench.seconds }),
  density: room("density"),
  correlation: room("correlation"),
};

/** Pictures for which the passage need not have been run through the path: they send something of their own through the stage. */
const ALONE: ReadonlySet<PictureKind> = new Set<PictureKind>([...ROOM_PICTURES, "falling-over-time", "step", "harmonics", "phase", "ringing", "swing", "notches", "sidebands", "traces", "delay-and-pitch"]);

export const standsAlone = (picture: PictureKind) => ALONE.has(picture);

/** What the picture of a request needs beside; nothing for some. */
export function shown(bench: MeasuringBench, request: Request, path: string): Shown | null {
  const answer = ANSWERS[request.picture]({ bench, request, path });
  return answer && ({ picture: request.picture, ...answer } as Shown);
}

/** What traces, pitches and looks at the wave consist of. */
const [TRACE_COLUMNS, TRACE_ROWS] = [96, 110];
const PITCH_PLACES = 400;
const [WAVE_LOOKS, WAVE_POINTS] = [48, 160];

const swingOf = ({ bench, request, path }: Asked) => JSON.parse(swingJson(path, request.pictured, bench.seconds, request.columns)) as SwingView | null;

const histograms = (bench: MeasuringBench) => JSON.parse(bench.histogramsJson()) as [Histogram, Histogram];

const curveFreqs = () => logFreqs(LOWEST_HZ, HIGHEST_HZ, CURVE_POINTS);

function responses({ request, path }: Asked): ResponseView[] {
  return JSON.parse(responsesJson(path, request.pictured, curveFreqs())) as ResponseView[];
}
