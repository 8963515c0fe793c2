/** Every picture: what it is called, and what draws it. What each needs measured stands in measuring/shown.ts. */
import type { Picture } from "../../generated/types/Picture";
import { Bands } from "../../pictures/time/Bands";
import { Curve } from "../../pictures/frequency/Curve";
import { Harmonics } from "../../pictures/levels/Harmonics";
import { InToOut } from "../../pictures/levels/InToOut";
import { LevelShares } from "../../pictures/levels/LevelShares";
import { NearTop } from "../../pictures/levels/NearTop";
import { Octaves } from "../../pictures/frequency/Octaves";
import { Onsets } from "../../pictures/time/Onsets";
import { OverTime } from "../../pictures/time/OverTime";
import { PhasePicture } from "../../pictures/frequency/PhasePicture";
import { RingingPicture } from "../../pictures/frequency/RingingPicture";
import { SpectrogramPicture } from "../../pictures/frequency/SpectrogramPicture";
import { StepPicture } from "../../pictures/levels/StepPicture";
import { CorrelationPicture } from "../../pictures/rooms/Correlation";
import { DecayPicture } from "../../pictures/rooms/Decay";
import { DecayByOctave } from "../../pictures/rooms/DecayByOctave";
import { DensityPicture } from "../../pictures/rooms/Density";
import { FallingOverTime, FallingPicture } from "../../pictures/rooms/Falling";
import { FirstReflections, WholeResponse } from "../../pictures/rooms/Response";
import { UnderHitsPicture } from "../../pictures/rooms/UnderHits";
import { DelayAndPitch } from "../../pictures/moving/DelayAndPitch";
import { HeldWavePicture } from "../../pictures/moving/HeldWave";
import { ModulationSpectrumPicture } from "../../pictures/moving/ModulationSpectrum";
import { NotchesPicture } from "../../pictures/moving/Notches";
import { SidebandsPicture } from "../../pictures/moving/Sidebands";
import { SwingPicture } from "../../pictures/moving/Swing";
import { TracesPicture } from "../../pictures/moving/Traces";
import { TwoParts } from "./TwoParts";

export const PICTURES: Record<Picture, { label: string; component: () => React.ReactNode }> = {
  "over-time": { label: "Over time", component: OverTime },
  "in-to-out": { label: "In to out", component: InToOut },
  step: { label: "Step", component: StepPicture },
  onsets: { label: "Onsets", component: Onsets },
  levels: { label: "Levels", component: LevelShares },
  harmonics: { label: "Harmonics", component: Harmonics },
  bands: { label: "Bands", component: Bands },
  curve: { label: "Curve", component: Curve },
  phase: { label: "Phase", component: PhasePicture },
  ringing: { label: "Ringing", component: RingingPicture },
  "near-top": { label: "Top end", component: NearTop },
  spectrogram: { label: "Spectrogram", component: SpectrogramPicture },
  parts: { label: "Two parts", component: TwoParts },
  octaves: { label: "Octaves", component: Octaves },
  decay: { label: "Decay", component: DecayPicture },
  "decay-by-octave": { label: "Decay by octave", component: DecayByOctave },
  impulse: { label: "Response", component: WholeResponse },
  "first-reflections": { label: "First 200 ms", component: FirstReflections },
  falling: { label: "Falling spectrum", component: FallingPicture },
  "falling-over-time": { label: "Falling, over time", component: FallingOverTime },
  "under-hits": { label: "Under the next hit", component: UnderHitsPicture },
  density: { label: "Density", component: DensityPicture },
  correlation: { label: "Left to right", component: CorrelationPicture },
  swing: { label: "Swing", component: SwingPicture },
  notches: { label: "Notches", component: NotchesPicture },
  sidebands: { label: "Sidebands", component: SidebandsPicture },
  traces: { label: "Traces", component: TracesPicture },
  "delay-and-pitch": { label: "Delay and pitch", component: DelayAndPitch },
  "modulation-spectrum": { label: "Envelope", component: ModulationSpectrumPicture },
  "held-wave": { label: "Held wave", component: HeldWavePicture },
};
