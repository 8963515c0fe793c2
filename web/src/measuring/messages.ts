/** What the page and the measuring worker say to each other. */
import type { PartsView } from "../generated/types/PartsView";
import type { OctavesView } from "../generated/types/OctavesView";
import type { DensityView } from "../generated/types/DensityView";
import type { DecayView } from "../generated/types/DecayView";
import type { CorrelationView } from "../generated/types/CorrelationView";
import type { Analysing } from "../generated/types/Analysing";
import type { Attack } from "../generated/types/Attack";
import type { BandLevel } from "../generated/types/BandLevel";
import type { Closeness } from "../generated/types/Closeness";
import type { DesignView } from "../generated/types/DesignView";
import type { Equal } from "../generated/types/Equal";
import type { CurvePoint } from "../generated/types/CurvePoint";
import type { FanDocument } from "../generated/types/FanDocument";
import type { Distortion } from "../generated/types/Distortion";
import type { Falling } from "../generated/types/Falling";
import type { FanRow } from "../generated/types/FanRow";
import type { GainView } from "../generated/types/GainView";
import type { Histogram } from "../generated/types/Histogram";
import type { LevelMatches } from "../generated/types/LevelMatches";
import type { Picture as PictureKind } from "../generated/types/Picture";
import type { ModulationSpectrum } from "../generated/types/ModulationSpectrum";
import type { Parts } from "../generated/types/Parts";
import type { PathDocument } from "../generated/types/PathDocument";
import type { PitchView } from "../generated/types/PitchView";
import type { ReferenceLevels } from "../generated/types/ReferenceLevels";
import type { PlayedStem } from "../generated/types/PlayedStem";
import type { Play } from "../generated/types/Play";
import type { Region } from "../generated/types/Region";
import type { Resonances } from "../generated/types/Resonances";
import type { ResponseView } from "../generated/types/ResponseView";
import type { Report } from "../generated/types/Report";
import type { RoomBendPoint } from "../generated/types/RoomBendPoint";
import type { RoomMeasured } from "../generated/types/RoomMeasured";
import type { SendsAs } from "../generated/types/SendsAs";
import type { SendsCompared } from "../generated/types/SendsCompared";
import type { Sidebands } from "../generated/types/Sidebands";
import type { SourceDocument } from "../generated/types/SourceDocument";
import type { StepResponse } from "../generated/types/StepResponse";
import type { SumLevels } from "../generated/types/SumLevels";
import type { SwingView } from "../generated/types/SwingView";
import type { Traces } from "../generated/types/Traces";
import type { UnderHits } from "../generated/types/UnderHits";
import type { WaveLook } from "../generated/types/WaveLook";
import type { BendSoFar, Share } from "./bend";
import type { LaidSound } from "./sounds";

/** What other stems send to a shared path, by its number among those. */
export interface Feed {
  number: number;
  channels: Channels;
}

export interface Request {
  /** Counts requests, and what has been opened: whatever answers one carries both. */
  id: number;
  opening: number;
  stems: PlayedStem[];
  /** The stem that is worked on. */
  work: number;
  region: Region | null;
  play: Play;
  reference: SourceDocument | null;
  /** Whether the sum of all stems is wanted, how what is sent is heard in it, and whether that is compared with inserts. */
  allStems: boolean;
  sendsAs: SendsAs;
  comparing: boolean;
  /** The stage whose parameters are bent. */
  stage: number;
  /** The stage that the picture is of. */
  pictured: number;
  /** Columns of the picture over time, and of the overview of the source. */
  columns: number;
  /** The parameters whose bends are wanted, the most wanted first. */
  bends: string[];
  /** The fan of the first of them, if it is open. */
  fan: FanDocument | null;
  /** The picture that is shown: what it needs is measured, and nothing for those that are not. */
  picture: PictureKind;
  /** How spectra are taken. */
  how: Analysing;
  /** The tone whose sidebands are shown, Hz, and the octave whose envelope is, Hz; none for all of them. */
  toneHz: number;
  bandHz: number | null;
  /** What is shown beside, with the same passage: a path, and the stage of it that the picture is of. */
  beside: BesidePath | null;
  /** The stem that this one is held against, where that is shown. */
  other: number | null;
  /** Other snapshots, whose level match is wanted. */
  others: PathDocument[];
}

/** A path that is shown beside the one at work. */
export interface BesidePath {
  path: PathDocument;
  pictured: number;
}

/** The source as a whole, drawn small. */
export interface SourceOverview {
  seconds: number;
  onsets: Float64Array;
  min: Float32Array;
  max: Float32Array;
}

/** The passage drawn small, with the tail after its end. */
export interface Picture {
  /** Length of both. */
  seconds: number;
  /** Length of the tail; 0 in a round. */
  tailSeconds: number;
  beforeMin: Float32Array;
  beforeMax: Float32Array;
  afterMin: Float32Array;
  afterMax: Float32Array;
  /** Deepest gain per column, dB; empty where the stage reports none. */
  gainDb: Float32Array;
  /** Smallest and largest sample of its key per column; both empty where it has none. */
  key: Channels;
}

/** What the picture that is shown needs beside the passage drawn small. */
export type Shown =
  /** With the levels that the source has. */
  | { picture: "in-to-out"; points: CurvePoint[]; before: Histogram }
  | { picture: "step"; response: StepResponse | null }
  | { picture: "harmonics"; distortion: Distortion }
  | { picture: "levels"; before: Histogram; after: Histogram }
  /** The frequencies at which bands meet or end, Hz, and the deepest gain per column of each, dB. */
  | { picture: "bands"; edgesHz: Float64Array; gainsDb: Float32Array[] }
  /** The measured responses at the frequencies of `frequencies.ts`, and the mean spectra, dBFS. */
  | { picture: "curve"; gains: GainView[]; before: Float32Array; after: Float32Array }
  | { picture: "phase"; responses: ResponseView[] }
  | { picture: "ringing"; responses: ResponseView[]; attack: Attack }
  /** Levels before and after, dBFS: columns of rows. */
  | {
      picture: "spectrogram";
      columns: number;
      rows: number;
      before: Float32Array;
      after: Float32Array;
      closeness: Closeness;
    }
  /** This part and another one; none where the stem is alone. */
  | { picture: "parts"; other: number; parts: Parts | null }
  | { picture: "octaves"; before: BandLevel[]; after: BandLevel[] }
  /** The falling spectrum of the stage, and where its reverb is heard in the passage; none where it is no room. */
  | { picture: "falling-over-time"; falling: Falling | null }
  | { picture: "under-hits"; levels: UnderHits | null }
  /** The swing over the passage, the lines beside a tone; none where the stage does not move. */
  | { picture: "swing"; swing: SwingView | null; seconds: number }
  | { picture: "notches"; swing: SwingView | null; seconds: number }
  | { picture: "sidebands"; sidebands: Sidebands | null }
  | { picture: "traces"; traces: Traces | null }
  | { picture: "delay-and-pitch"; view: PitchView | null }
  /** What sways in the passage before and after, and what its wave is like at some places of it. */
  | { picture: "modulation-spectrum"; spectrum: ModulationSpectrum }
  | { picture: "held-wave"; looks: WaveLook[]; seconds: number }
  /** What pictures of rooms show of the stage; none where it is no room. */
  | { [P in RoomPicture]: { picture: P; view: RoomViews[P] | null } }[RoomPicture];

/** What every picture of a room shows. */
export interface RoomViews {
  decay: DecayView;
  "decay-by-octave": OctavesView;
  impulse: PartsView;
  "first-reflections": PartsView;
  falling: Falling;
  density: DensityView;
  correlation: CorrelationView;
}
export type RoomPicture = keyof RoomViews;
export const ROOM_PICTURES = [
  "decay",
  "decay-by-octave",
  "impulse",
  "first-reflections",
  "falling",
  "density",
  "correlation",
] as const satisfies readonly RoomPicture[];

/** Whether a picture shows the response of a room. */
export const isRoomPicture = (picture: PictureKind): picture is RoomPicture =>
  (ROOM_PICTURES as readonly string[]).includes(picture);

/** The same of one picture, without its name. */
export type ShownBy<P extends Shown["picture"]> = Omit<Extract<Shown, { picture: P }>, "picture">;

/** One value of a fan: what is read off it, and what is drawn of it. */
export interface FanBlade {
  row: FanRow;
  /** Length of the passage and of its tail. */
  seconds: number;
  afterMin: Float32Array;
  afterMax: Float32Array;
  gainDb: Float32Array;
  curve: CurvePoint[];
  /** The response with this value, where the picture shows one. */
  room: RoomViews[RoomPicture] | null;
}

/** Two channels of samples. */
export type Channels = [Float32Array, Float32Array];

/** All samples of the first channel, then all of the second, as two channels. */
export function halves(both: Float32Array): Channels {
  return [both.slice(0, both.length / 2), both.slice(both.length / 2)];
}

/** How far a path has been run: how many of its stages are left. */
export interface Running {
  left: number;
  of: number;
}

/** What is answered to a request. */
export type AnswerTo =
  /** Tracks that stages take and that the server does not keep any more. */
  | { kind: "gone"; tracks: string[] }
  /** How far a track has come in, 0 to 1; null when all are here. */
  | { kind: "loading"; share: number | null }
  /** A long path is being run; its picture follows. */
  | { kind: "running"; running: Running }
  /** A passage, and how much of the time it spends at which level. */
  | { kind: "passage"; channels: Channels; levels: Histogram }
  | { kind: "overview"; overview: SourceOverview }
  /** The passage and the sounds of a request are those that have been told last. */
  | { kind: "placed" }
  | { kind: "picture"; picture: Picture }
  | { kind: "report"; report: Report }
  | { kind: "shown"; shown: Shown }
  /** The same of the path beside; nothing more than the passage where the picture needs no more. */
  | { kind: "beside"; picture: Picture; shown: Shown | null }
  /** The share of a core that the stage in the picture takes here; in steps of what the clock shows. */
  | { kind: "cost"; share: number }
  | { kind: "sound"; sound: LaidSound }
  | { kind: "matches"; path: string; matches: LevelMatches }
  | { kind: "backing"; channels: Channels | null; feeds: Feed[] }
  /** Shared paths beside inserts; none where that is not wanted, or nothing is sent. */
  | { kind: "compared"; compared: SendsCompared | null }
  | { kind: "sum"; sum: SumLevels | null }
  /** The reference: its levels, its samples, and its smallest and largest samples per column. */
  | { kind: "reference"; reference: ReferenceLevels | null; channels: Channels | null; columns: Channels | null }
  /** The spectrum of the reference as it is heard, while a picture shows it. */
  | { kind: "reference-spectrum"; levels: Float32Array | null }
  | { kind: "refused"; sentence: string };

/** What the measuring worker says: an answer to a request, samples by the number under which they were asked for, or that it cannot go on,
 * since its module has trapped. */
export type Answer =
  | (AnswerTo & Pick<Request, "id" | "opening">)
  | { kind: "samples"; id: number; channels: Channels }
  | { kind: "broke"; sentence: string };

/** What a worker for bends has measured: its share of a bend, or one value of a fan. */
export type BendAnswer =
  | { kind: "bend"; id: number; stage: number; param: string; bend: BendSoFar }
  | { kind: "blade"; id: number; param: string; count: number; at: number; blade: FanBlade }
  | Extract<Answer, { kind: "broke" | "refused" }>;

/** The bends that are wanted of a path, the most wanted first, and the fan of that one if it is open. */
export interface BendsWanted extends Pick<
  Request,
  "id" | "opening" | "stage" | "fan" | "columns" | "picture" | "play"
> {
  path: PathDocument;
  params: string[];
}

export type ToBendWorker =
  | { kind: "module"; bytes: ArrayBuffer; share: Share }
  /** Another passage; the sounds of the last one are let go. */
  | { kind: "passage"; channels: Channels }
  | { kind: "sound"; sound: LaidSound }
  /** Null while a hand moves. */
  | { kind: "bends"; wanted: BendsWanted | null };

/** What is asked of the measuring worker and answered at once; errors come back as they were thrown. */
export interface Calls {
  /** The report of the latest path as a table in CSV. */
  reportCsv(): string;
  /** The value of a parameter of a path at which its outcome is that of the same stage of another one. */
  equal(path: PathDocument, other: PathDocument, stage: number, param: string): Equal;
  /** The resonances of the passage before the path. */
  resonances(): Resonances;
  /** A designed response as it is seen, its wave in so many columns. */
  design(design: SourceDocument, columns: number): DesignView;
  /** What is measured in the response of a room by its measures. */
  room(room: SourceDocument): RoomMeasured;
  /** How long it rings over the range of one of its measures, at one of so many places of it; none where it is the same as at the one before. */
  roomBend(room: SourceDocument, measure: string, place: number, of: number): RoomBendPoint;
}

export type ToWorker =
  /** With the port on which the worker is called. */
  | { kind: "module"; bytes: ArrayBuffer; calls?: MessagePort }
  | { kind: "measure"; request: Request }
  /** Asks for the samples after a path, as they are exported: not matched, not limited. */
  | { kind: "samples"; id: number; source: SourceDocument; path: PathDocument };
