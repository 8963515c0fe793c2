/** The bands of the chosen equaliser, each to be taken hold of in the picture. */
import { memo, useEffect } from "react";

import { type Band, bandParam, bandsOf, withoutBand } from "../../bench/bands";
import { acts, withStage, withValue, withView } from "../../bench/edits";
import { useGroups } from "../../bench/groups";
import { useHand } from "../../bench/hand";
import { useBench, usePart, usePicturedStage } from "../../bench/store";
import { effectControl, effectOf, paramNamed, text } from "../../core/core";
import { fromFile } from "../../core/numbers";
import type { Effect } from "../../generated/types/Effect";
import type { StageDocument } from "../../generated/types/StageDocument";
import { focusNext } from "../../parts/focus";
import { BandHandle, type Moved } from "../../plot/BandHandle";
import type { Scales } from "../../plot/scales";
import { hzAt, placeOf } from "./frequency";

interface Props {
  stage: StageDocument;
  scales: Scales;
  /** The gain of the band's own curve at its frequency, dB. */
  heightOf: (band: Band) => number;
}

export function BandHandles({ stage, scales: s, heightOf }: Props) {
  const { index, held } = usePicturedStage();
  const spotlight = usePart((d) => d.view.spotlight);
  const chosen = useGroups(({ chosen }) => chosen);
  const effect = effectOf(stage);
  const litGroup = spotlight ? paramNamed(effect, spotlight)?.group : undefined;
  if (!held) return null;
  return bandsOf(stage).map((band) => (
    <OneHandle
      key={band.number}
      {...band}
      effect={effect}
      index={index}
      scales={s}
      lit={band.group === chosen[effect.id] || band.group === litGroup}
      heightDb={heightOf(band)}
      hasGain={acts(stage, bandParam(effect, band.number, "gain"))}
      hasQ={acts(stage, bandParam(effect, band.number, "q"))}
    />
  ));
}

interface OneProps extends Band {
  effect: Effect;
  index: number;
  scales: Scales;
  lit: boolean;
  heightDb: number;
  hasGain: boolean;
  hasQ: boolean;
}

type Moving = "freq" | "gain" | "q";

/** Drawn anew only when something of its own band moves. */
const OneHandle = memo(function OneHandle({
  effect,
  index,
  number,
  group,
  kind,
  on,
  freqHz,
  gainDb,
  q,
  scales: s,
  lit,
  heightDb,
  hasGain,
  hasQ,
}: OneProps) {
  const { edit, look } = useBench.getState();
  // A band that is taken out of the hand holds nothing any more.
  useEffect(() => () => useHand.setState({ held: false }), []);
  const [lowPlace, highPlace] = s.x.domain() as [number, number];
  const moved = (which: Moving, value: number): Moved => {
    const param = bandParam(effect, number, which);
    return { control: effectControl(effect.id, param.id), value, initial: fromFile(param.default, 0) };
  };
  const freq = moved("freq", freqHz);
  const change = (values: Partial<Record<Moving, number>>) => {
    const now = { freq: freqHz, gain: gainDb, q };
    const wanted = (["freq", "gain", "q"] as const).flatMap((which) => {
      const value = values[which];
      return value === undefined || value === now[which] ? [] : [{ param: bandParam(effect, number, which), value }];
    });
    if (wanted.length === 0) return;
    edit(
      `Band ${number} ${wanted.map(({ param, value }) => text(param.unit, value)).join(", ")}`,
      (d) =>
        withStage(d, index, (stage) =>
          wanted.reduce((changed, { param, value }) => withValue(changed, param, value), stage),
        ),
      `${index} band ${number}`,
    );
  };
  const choose = () => {
    useGroups.getState().choose(effect.id, group);
    const { spotlight } = useBench.getState().history.present.document.view;
    if (spotlight && paramNamed(effect, spotlight)?.group !== group) {
      look((d) => withView(d, { spotlight: null, fan: null }));
    }
  };
  return (
    <BandHandle
      number={number}
      label={`Band ${number}, ${kind}`}
      on={on}
      lit={lit}
      x={s.x(Math.min(highPlace, Math.max(lowPlace, placeOf(freqHz))))}
      y={Math.min(s.bottom, Math.max(s.top, s.y(heightDb)))}
      zero={s.y(0)}
      span={s.right - s.left}
      pixelsPerDb={Math.abs(s.y(1) - s.y(0))}
      shownShare={freq.control.position(hzAt(highPlace)) - freq.control.position(hzAt(lowPlace))}
      freq={freq}
      gain={hasGain ? moved("gain", gainDb) : null}
      q={hasQ ? moved("q", q) : null}
      onChange={change}
      onHold={(held) => useHand.setState({ held })}
      onChoose={choose}
      onRemove={() => {
        edit(`Remove band ${number}`, (d) => withStage(d, index, (stage) => withoutBand(stage, number)));
        focusNext("[role=slider][aria-label^='Band '][aria-label$=' in the picture']", "[data-all-bands]");
      }}
    />
  );
});
