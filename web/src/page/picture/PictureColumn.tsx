/** The source's overview, the one picture that matters, what has changed in words, and the measures. */
import { Button, NativeSelect, Tabs } from "@mantine/core";
import { memo, useState } from "react";
import { useShallow } from "zustand/react/shallow";

import { useLooking } from "../../bench/analysing";
import { type Beside, besideChoices, besideOf } from "../../bench/beside";
import { pathOf, picturedStage, withView } from "../../bench/edits";
import { useHeardBlade } from "../../bench/fanHeard";
import { useBench, usePart, usePicturedStage } from "../../bench/store";
import { shownPicture } from "../../bench/wiring";
import { catalogue, effectNamed } from "../../core/core";
import type { Picture } from "../../generated/types/Picture";
import type { Sentence } from "../../generated/types/Sentence";
import { IsBeside, useMeasured, useStale } from "../../measuring/measured";
import { saidOf } from "../../measuring/said";
import { HeadSlot } from "../../pictures/InHead";
import { RegionStrip } from "../../pictures/time/RegionStrip";
import { BeingMeasured } from "./BeingMeasured";
import { FanTable } from "./FanTable";
import { DryAdvice } from "./DryAdvice";
import { toggleHidden } from "../foot/Foot";
import { MeasureTable } from "./MeasureTable";
import { RoomTable } from "./RoomTable";
import { PICTURES } from "./pictures";
import { Said } from "./Said";
import classes from "./picture-column.module.css";

export function PictureColumn() {
  const view = usePart((d) => d.view);
  const matchBy = usePart((d) => d.listening.level_match);
  const pictured = usePicturedStage();
  const report = useMeasured((m) => m.report);
  const refusal = useMeasured((m) => m.refusal);
  const loading = useMeasured((m) => m.loading);
  const fan = view.fan !== null && view.spotlight !== null;
  const room = report?.stages[view.stage]?.room;
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
          <PictureTabs wanted={view.picture} effect={pictured.stage?.effect} />
          <BeingMeasured />
          {report && report.dry_stages.length > 0 && <DryAdvice report={report} />}
          {report && <Sentences sentences={saidOf(report, matchBy)} />}
          {!fan && room && <RoomTable room={room} wobbleCents={report.outcomes[view.stage]?.wobble_cents ?? null} />}
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
  const Shown = PICTURES[shown].component;
  const wantedBeside = useLooking((l) => l.beside);
  const document = usePart((d) => d);
  const beside = besideOf(document, wantedBeside);
  const own = effect ? `${picturedStage(document.view) + 1} ${effectNamed(effect).label}` : "At work";
  const [slot, setSlot] = useState<HTMLDivElement | null>(null);
  return (
    <Tabs
      variant="pills"
      radius="xl"
      color="dark"
      value={shown}
      onChange={(picture) => look((d) => withView(d, { picture: picture as Picture }))}
      className={classes.tabs}
      data-beside={beside ? true : undefined}
    >
      <div className={classes.head}>
        <Tabs.List aria-label="Pictures">
          {offered.map((picture) => (
            <Tabs.Tab key={picture} value={picture}>
              {PICTURES[picture].label}
            </Tabs.Tab>
          ))}
        </Tabs.List>
        <div ref={setSlot} className={classes.slot} />
        <BesideChoices />
        <Keep />
        <Enlarge />
      </div>
      <Tabs.Panel value={shown} className={classes.panel}>
        <section className={classes.pane} aria-label="At work">
          {beside && <h2>{own}</h2>}
          <HeadSlot value={slot}>
            <Shown />
          </HeadSlot>
        </section>
        {beside && (
          <section className={classes.pane} aria-label={`Beside: ${beside.label}`}>
            <h2>{beside.label}</h2>
            <IsBeside value={true}>
              <HeadSlot value={null}>
                <Shown />
              </HeadSlot>
            </IsBeside>
          </section>
        )}
      </Tabs.Panel>
    </Tabs>
  );
});

/** What is shown beside, on the very same passage. */
function BesideChoices() {
  const choices = besideChoices(usePart((d) => d));
  const { beside, set } = useLooking();
  if (choices.length === 0) return null;
  const value = ({ kind, index }: Beside) => `${kind} ${index}`;
  const chosen = choices.find(({ of }) => beside && value(of) === value(beside));
  return (
    <NativeSelect
      size="xs"
      aria-label="Beside this picture"
      value={chosen ? value(chosen.of) : ""}
      data={[
        { value: "", label: "Beside: nothing" },
        ...choices.map(({ of, label }) => ({ value: value(of), label: `Beside: ${label}` })),
      ]}
      onChange={({ target }) => set({ beside: choices.find(({ of }) => value(of) === target.value)?.of ?? null })}
    />
  );
}

/** Keeps the picture of this stage in view while other stages are worked on. */
function Keep() {
  const { kept, stage } = usePart((d) => d.view);
  const stages = useBench(useShallow((s) => pathOf(s.history.present.document).stages.map(({ effect }) => effect)));
  const look = useBench((s) => s.look);
  if (stages.length < 2) return null;
  const of = stages[kept ?? stage];
  const label = kept === null || !of ? "Keep this picture in view" : `In view: ${kept + 1} ${effectNamed(of).label}`;
  return (
    <button
      type="button"
      className={classes.looking}
      aria-pressed={kept !== null}
      aria-label={label}
      title={
        kept === null
          ? "Keep this picture in view while you work on other stages"
          : "Let the picture follow the work again"
      }
      onClick={() => look((d) => withView(d, { kept: kept === null ? stage : null }))}
    >
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden>
        <path d="M4.5 1.5h5M5.5 1.5v4L3.5 8h7L8.5 5.5v-4M7 8v5" />
      </svg>
      {kept !== null && <span>{label.replace("In view: ", "")}</span>}
    </button>
  );
}

/** Gives the picture the page, for a projector. */
function Enlarge() {
  const { large, set } = useLooking();
  return (
    <button
      type="button"
      className={classes.looking}
      aria-pressed={large}
      aria-label="Large picture"
      title="The picture large, or everything (L)"
      onClick={() => set({ large: !large })}
    >
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden>
        <path d={large ? "M5.5 1.5v4h-4M12.5 8.5h-4v4" : "M8 1.5h4.5V6M6 12.5H1.5V8M12.5 1.5 8.5 5.5M1.5 12.5l4-4"} />
      </svg>
    </button>
  );
}

const Sentences = memo(function Sentences({ sentences }: { sentences: Sentence[] }) {
  const stale = useStale();
  const blade = useHeardBlade();
  return (
    <p className={classes.sentences} aria-live="polite" data-stale={stale}>
      {blade && "Your own setting, and not the value that is heard: "}
      {sentences.map((sentence, i) => (
        <span key={i}>
          <Said sentence={sentence} />{" "}
        </span>
      ))}
    </p>
  );
});
