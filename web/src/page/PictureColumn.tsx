/** The source's overview, the one picture that matters, what has changed in words, and the measures. */
import { Button, Tabs } from "@mantine/core";
import { memo } from "react";

import { pathOf, withView } from "../bench/edits";
import { useBench, usePart } from "../bench/store";
import { shownPicture } from "../bench/wiring";
import { catalogue } from "../core/core";
import type { Picture } from "../generated/types/Picture";
import type { Sentence } from "../generated/types/Sentence";
import { useMeasured } from "../measuring/measured";
import { Bands } from "../pictures/Bands";
import { Curve } from "../pictures/Curve";
import { Harmonics } from "../pictures/Harmonics";
import { InToOut } from "../pictures/InToOut";
import { LevelShares } from "../pictures/LevelShares";
import { NearTop } from "../pictures/NearTop";
import { Octaves } from "../pictures/Octaves";
import { Onsets } from "../pictures/Onsets";
import { OverTime } from "../pictures/OverTime";
import { PhasePicture } from "../pictures/PhasePicture";
import { RingingPicture } from "../pictures/RingingPicture";
import { SpectrogramPicture } from "../pictures/SpectrogramPicture";
import { StepPicture } from "../pictures/StepPicture";
import { TwoParts } from "./TwoParts";
import { RegionStrip } from "../pictures/RegionStrip";
import { FanTable } from "./FanTable";
import { toggleHidden } from "./Foot";
import { MeasureTable } from "./MeasureTable";
import classes from "./picture-column.module.css";

const NAMES: Record<Picture, string> = {
  "over-time": "Over time",
  "in-to-out": "In to out",
  step: "Step",
  onsets: "Onsets",
  levels: "Levels",
  harmonics: "Harmonics",
  bands: "Bands",
  curve: "Curve",
  phase: "Phase",
  ringing: "Ringing",
  "near-top": "Top end",
  spectrogram: "Spectrogram",
  parts: "Two parts",
  octaves: "Octaves",
};
const PICTURES: Record<Picture, () => React.ReactNode> = {
  "over-time": OverTime,
  "in-to-out": InToOut,
  step: StepPicture,
  onsets: Onsets,
  levels: LevelShares,
  harmonics: Harmonics,
  bands: Bands,
  curve: Curve,
  phase: PhasePicture,
  ringing: RingingPicture,
  "near-top": NearTop,
  spectrogram: SpectrogramPicture,
  parts: TwoParts,
  octaves: Octaves,
};

export function PictureColumn() {
  const view = usePart((d) => d.view);
  const matchBy = usePart((d) => d.listening.level_match);
  const effect = usePart((d) => pathOf(d).stages[d.view.stage]?.effect);
  const report = useMeasured((m) => m.report);
  const refusal = useMeasured((m) => m.refusal);
  const loading = useMeasured((m) => m.loading);
  const fan = view.fan !== null && view.spotlight !== null;
  return (
    <section className={classes.column} aria-label="Picture">
      <RegionStrip />
      {loading !== null && (
        <p className={classes.loading} role="status">
          The track is coming in: <progress value={loading} max={1} aria-label="Track" /> {Math.round(100 * loading)} %
        </p>
      )}
      {refusal && (
        <p className={classes.refusal} role="alert">
          This bench cannot be measured: {refusal}.
        </p>
      )}
      {view.hidden ? (
        <div className={classes.closed}>
          <p>Pictures and numbers are hidden. Listen, and decide by ear.</p>
          <Button variant="default" onClick={toggleHidden}>
            Show them
          </Button>
        </div>
      ) : (
        <>
          <PictureTabs wanted={view.picture} effect={effect} />
          {report && <Sentences sentences={report.sentences} />}
          {fan ? <FanTable /> : report && <MeasureTable report={report} stage={view.stage} matchBy={matchBy} />}
        </>
      )}
    </section>
  );
}

interface TabsProps {
  wanted: Picture;
  effect: string | undefined;
}

const PictureTabs = memo(function PictureTabs({ wanted, effect }: TabsProps) {
  const look = useBench((s) => s.look);
  const offered: Picture[] = catalogue.effects.find((e) => e.id === effect)?.pictures ?? ["over-time"];
  const shown = shownPicture(wanted, offered);
  const Shown = PICTURES[shown];
  return (
    <Tabs
      variant="pills"
      radius="xl"
      color="dark"
      value={shown}
      onChange={(picture) => look((d) => withView(d, { picture: picture as Picture }))}
      className={classes.tabs}
    >
      <Tabs.List aria-label="Pictures">
        {offered.map((picture) => (
          <Tabs.Tab key={picture} value={picture}>
            {NAMES[picture]}
          </Tabs.Tab>
        ))}
      </Tabs.List>
      <Tabs.Panel value={shown} className={classes.panel}>
        <Shown />
      </Tabs.Panel>
    </Tabs>
  );
});

const Sentences = memo(function Sentences({ sentences }: { sentences: Sentence[] }) {
  return (
    <p className={classes.sentences} aria-live="polite">
      {sentences.map((sentence, i) => (
        <span key={i}>
          {sentence.map((span, k) => (span.number ? <b key={k}>{span.text}</b> : span.text))}{" "}
        </span>
      ))}
    </p>
  );
});
