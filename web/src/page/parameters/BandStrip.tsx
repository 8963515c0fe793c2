/** The bands of an equaliser, each told apart by its number and a small drawing of its own curve. */
import { Button } from "@mantine/core";

import { type Band, bandGroup, bandParam, bandsOf, freeBand, hasBands, withBand, withoutBand } from "../../bench/bands";
import { withStage } from "../../bench/edits";
import { groupsOf } from "../../bench/groups";
import { useBench } from "../../bench/store";
import { effectControl, effectOf, freePlaceHz } from "../../core/core";
import type { StageDocument } from "../../generated/types/StageDocument";
import { focusNext } from "../../parts/focus";
import { stageCurves } from "../../pictures/frequency/frequency";
import classes from "./bands.module.css";

const WIDTH = 38;
const HEIGHT = 16;
const SHOWN_DB = 15;
/** Every so many points of the curve make one of the drawing. */
const EVERY = 12;

interface Props {
  stage: StageDocument;
  index: number;
  group: string | null;
  onGroup: (group: string) => void;
}

export function BandStrip({ stage, index, group, onGroup }: Props) {
  const edit = useBench((s) => s.edit);
  const curves = stageCurves(stage);
  const effect = effectOf(stage);
  if (!hasBands(effect)) return null;
  const bands = bandsOf(stage);
  const [whole] = groupsOf(effect);
  const shown = bands.find((band) => band.group === group)?.number;
  const free = freeBand(stage);
  const add = () => {
    if (free === null) return;
    const control = effectControl(effect.id, bandParam(effect, free, "freq").id);
    const place = control.value(control.position(freePlaceHz(Float64Array.from(bands, ({ freqHz }) => freqHz))));
    edit(`Add band ${free}`, (d) => withStage(d, index, (s) => withBand(s, free, place, 3)));
    onGroup(bandGroup(effect, free));
  };
  const remove = (number: number) => {
    edit(`Remove band ${number}`, (d) => withStage(d, index, (s) => withoutBand(s, number)));
    onGroup(whole ?? "");
    focusNext("[data-all-bands]");
  };
  return (
    <div className={classes.strip} role="group" aria-label="Bands">
      <button
        type="button"
        className={classes.whole}
        data-all-bands
        aria-pressed={group === whole}
        onClick={() => onGroup(whole ?? "")}
      >
        All bands
      </button>
      {bands.map((band) => (
        <button
          key={band.number}
          type="button"
          className={classes.band}
          aria-pressed={band.group === group}
          data-off={!band.on || undefined}
          aria-label={`Band ${band.number}, ${band.kind}${band.on ? "" : ", off"}`}
          title={`Band ${band.number}: ${band.kind}`}
          onClick={() => onGroup(band.group)}
        >
          <b>{band.number}</b>
          <Sketch gains={curves?.bands.find(({ number }) => number === band.number)?.gains_db ?? []} band={band} />
        </button>
      ))}
      <Button size="compact-sm" variant="default" disabled={free === null} onClick={add}>
        Add band
      </Button>
      {shown !== undefined && (
        <Button size="compact-sm" variant="default" onClick={() => remove(shown)}>
          Remove band {shown}
        </Button>
      )}
    </div>
  );
}

/** The curve of a band, small. */
function Sketch({ gains, band }: { gains: number[]; band: Band }) {
  const y = (db: number) => HEIGHT / 2 - (Math.min(SHOWN_DB, Math.max(-SHOWN_DB, db)) / SHOWN_DB) * (HEIGHT / 2 - 1);
  const points = gains
    .flatMap((db, i) =>
      i % EVERY === 0 ? [`${((i / (gains.length - 1)) * WIDTH).toFixed(1)},${y(db).toFixed(1)}`] : [],
    )
    .join(" ");
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden data-kind={band.kind}>
      <line x1={0} x2={WIDTH} y1={HEIGHT / 2} y2={HEIGHT / 2} className={classes.zero} />
      <polyline points={points} className={classes.sketch} />
    </svg>
  );
}
