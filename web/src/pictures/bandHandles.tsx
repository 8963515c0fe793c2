/** The bands of the chosen equaliser, each to be taken hold of in the picture. */
import { type Band, bandParam, bandsOf, withoutBand } from "../bench/bands";
import { acts, valueOf, withStage, withValue, withView } from "../bench/edits";
import { useGroups } from "../bench/groups";
import { useBench, usePart, usePicturedStage } from "../bench/store";
import { effectControl, effectOf, text } from "../core/core";
import { fromFile } from "../core/numbers";
import type { Param } from "../generated/types/Param";
import type { StageDocument } from "../generated/types/StageDocument";
import { BandHandle, type Moved } from "../plot/BandHandle";
import type { Scales } from "../plot/PlotFrame";
import { hzAt, placeOf } from "./frequency";

interface Props {
  stage: StageDocument;
  scales: Scales;
  /** The gain of the band's own curve at its frequency, dB. */
  heightOf: (band: Band) => number;
}

export function BandHandles({ stage, scales: s, heightOf }: Props) {
  const { index } = usePicturedStage();
  const spotlight = usePart((d) => d.view.spotlight);
  const { edit, look } = useBench.getState();
  const groups = useGroups();
  const effect = effectOf(stage);
  const [lowPlace, highPlace] = s.x.domain() as [number, number];

  return bandsOf(stage).map((band) => {
    const param = (which: "freq" | "gain" | "q") => bandParam(effect, band.number, which);
    const moved = (of: Param): Moved => ({ control: effectControl(effect.id, of.id), value: valueOf(stage, of), initial: fromFile(of.default, 0) });
    const freq = moved(param("freq"));
    const within = (of: Param) => (acts(stage, effect, of) ? moved(of) : null);
    const lit = band.group === groups.chosen[effect.id] || effect.params.some(({ id, group }) => id === spotlight && group === band.group);
    return (
      <BandHandle
        key={band.number}
        number={band.number}
        label={`Band ${band.number}, ${band.kind}`}
        on={band.on}
        lit={lit}
        x={s.x(Math.min(highPlace, Math.max(lowPlace, placeOf(band.freqHz))))}
        y={Math.min(s.bottom, Math.max(s.top, s.y(heightOf(band))))}
        zero={s.y(0)}
        span={s.right - s.left}
        pixelsPerDb={Math.abs(s.y(1) - s.y(0))}
        shownShare={freq.control.position(hzAt(highPlace)) - freq.control.position(hzAt(lowPlace))}
        freq={freq}
        gain={within(param("gain"))}
        q={within(param("q"))}
        onChange={(change) => {
          const wanted = (["freq", "gain", "q"] as const).flatMap((which) => {
            const value = change[which];
            return value === undefined || value === valueOf(stage, param(which)) ? [] : [{ param: param(which), value }];
          });
          if (wanted.length === 0) return;
          const label = `Band ${band.number} ${wanted.map(({ param, value }) => text(param.unit, value)).join(", ")}`;
          edit(
            label,
            (d) => withStage(d, index, (now) => wanted.reduce((stage, { param, value }) => withValue(stage, param, value), now)),
            `${index} band ${band.number}`,
          );
        }}
        onChoose={() => {
          groups.choose(effect.id, band.group);
          if (spotlight && !effect.params.some(({ id, group }) => id === spotlight && group === band.group)) {
            look((d) => withView(d, { spotlight: null, fan: null }));
          }
        }}
        onRemove={() => edit(`Remove band ${band.number}`, (d) => withStage(d, index, (now) => withoutBand(now, band.number)))}
      />
    );
  });
}
