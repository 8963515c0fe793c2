/**
 * A band that can be taken hold of: sideways is frequency, up and down is gain, the wheel or a drag with Alt is Q. To
 * assistive technology it is a slider of the frequency that says all three (WAI-ARIA slider pattern).
 */
import { type KeyboardEvent, type PointerEvent, useRef } from "react";

import type { Control } from "../core/core";
import { asked } from "../parts/sliderKeys";
import { FINE, useWheel } from "../parts/sliding";
import classes from "./band-handle.module.css";

export interface Moved {
  control: Control;
  value: number;
  initial: number;
}

interface Props {
  number: number;
  label: string;
  on: boolean;
  lit: boolean;
  x: number;
  y: number;
  /** Where 0 dB lies. */
  zero: number;
  /** Width of the whole axis of frequency, and height of one dB, pixels. */
  span: number;
  pixelsPerDb: number;
  freq: Moved;
  /** None where the kind of the band has none. */
  gain: Moved | null;
  q: Moved | null;
  /** The share of the frequency's range that the axis shows. */
  shownShare: number;
  onChange: (change: { freq?: number; gain?: number; q?: number }) => void;
  /** Taken hold of, or let go. */
  onHold: (held: boolean) => void;
  onChoose: () => void;
  onRemove: () => void;
}

/** A drag of so many pixels moves Q over its whole range. */
const Q_PIXELS = 400;

export function BandHandle(props: Props) {
  const {
    number,
    label,
    on,
    lit,
    x,
    y,
    zero,
    span,
    pixelsPerDb,
    freq,
    gain,
    q,
    shownShare,
    onChange,
    onHold,
    onChoose,
    onRemove,
  } = props;
  const element = useRef<HTMLDivElement>(null);
  const held = useRef<{ x: number; y: number; freq: number; gain: number; q: number } | null>(null);

  const position = ({ control, value }: Moved) => control.position(value);

  useWheel(
    element,
    () => q !== null,
    (steps) => q && onChange({ q: q.control.nudged(q.value, 2 * steps) }),
  );

  const letGo = () => {
    held.current = null;
    onHold(false);
  };
  const move = (event: PointerEvent) => {
    const from = held.current;
    if (!from) return;
    const fine = event.shiftKey ? FINE : 1;
    const [dx, dy] = [(event.clientX - from.x) * fine, (event.clientY - from.y) * fine];
    held.current = { ...from, x: event.clientX, y: event.clientY };
    if (event.altKey && q) {
      from.q = Math.min(1, Math.max(0, from.q - dy / Q_PIXELS));
      held.current.q = from.q;
      onChange({ q: q.control.value(from.q) });
      return;
    }
    held.current.freq = Math.min(1, Math.max(0, from.freq + (dx / span) * shownShare));
    const change: { freq?: number; gain?: number } = { freq: freq.control.value(held.current.freq) };
    if (gain) {
      held.current.gain = from.gain - dy / pixelsPerDb;
      change.gain = gain.control.value(gain.control.position(held.current.gain));
    }
    onChange(change);
  };

  const onKey = (event: KeyboardEvent) => {
    const fine = event.shiftKey ? FINE : 1;
    const nudge = (moved: Moved | null, steps: number) =>
      moved ? moved.control.nudged(moved.value, steps * fine) : undefined;
    const wanted = asked(event);
    if (wanted) {
      event.preventDefault();
      const change = {
        ...(wanted.along !== 0 && { freq: nudge(freq, wanted.along) }),
        ...(wanted.up !== 0 && { gain: nudge(gain, wanted.up) }),
        ...(wanted.pages !== 0 && { q: nudge(q, 3 * wanted.pages) }),
        ...(wanted.end !== null && { freq: freq.control.value(wanted.end) }),
      };
      onChange(Object.fromEntries(Object.entries(change).filter(([, value]) => value !== undefined)));
    } else if (event.key === "Enter") {
      onChoose();
    } else if (event.key === "Delete") {
      onRemove();
    }
  };

  const said = [freq, gain, q].flatMap((moved, i) =>
    moved ? [`${i === 2 ? "Q " : ""}${moved.control.text(moved.value)}`] : [],
  );
  return (
    <>
      <div
        className={classes.stem}
        style={{ transform: `translate(${x}px, ${Math.min(y, zero)}px) scaleY(${Math.abs(y - zero)})` }}
        aria-hidden
      />
      <div
        ref={element}
        className={classes.band}
        data-off={!on || undefined}
        data-lit={lit || undefined}
        style={{ transform: `translate(${Math.round(x) - 14}px, ${Math.round(y) - 14}px)` }}
        role="slider"
        tabIndex={0}
        aria-label={`${label} in the picture`}
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(100 * position(freq))}
        aria-valuetext={said.join(", ")}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          event.stopPropagation();
          event.currentTarget.setPointerCapture(event.pointerId);
          held.current = {
            x: event.clientX,
            y: event.clientY,
            freq: position(freq),
            gain: gain?.value ?? 0,
            q: q ? position(q) : 0,
          };
          onHold(true);
          onChoose();
        }}
        onPointerMove={move}
        onPointerUp={letGo}
        onPointerCancel={letGo}
        onDoubleClick={(event) => {
          event.stopPropagation();
          onChange(gain ? { gain: gain.initial } : { freq: freq.initial });
        }}
        onKeyDown={onKey}
      >
        <span>{number}</span>
      </div>
    </>
  );
}
