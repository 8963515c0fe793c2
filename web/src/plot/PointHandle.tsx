/** A point of a picture that can be taken hold of: it moves both ways. To assistive technology it is a slider that says both of its values. */
import { type KeyboardEvent, useRef } from "react";

import { asked } from "../parts/sliderKeys";
import { FINE, useDrag } from "../parts/sliding";
import classes from "./band-handle.module.css";

interface Props {
  number: number;
  label: string;
  /** Both of its values, in words. */
  said: string;
  lit: boolean;
  x: number;
  y: number;
  /** How far along it lies, 0 to 1. */
  along: number;
  /** Dragged to a place of the picture, pixels. */
  onTo: (x: number, y: number) => void;
  /** Keys: so many steps along and up, less than one with Shift held. */
  onStep: (along: number, up: number) => void;
  onChoose: () => void;
  onRemove: () => void;
}

/** Keys of whole pages count as so many steps. */
const PAGE = 10;

export function PointHandle({ number, label, said, lit, x, y, along, onTo, onStep, onChoose, onRemove }: Props) {
  const element = useRef<HTMLDivElement>(null);
  const picture = useRef<DOMRect | null>(null);
  const drag = useDrag(
    (pointer) => picture.current && onTo(pointer.x - picture.current.left, pointer.y - picture.current.top),
    () => {
      // Looked up once: while a hand moves it, the page is not laid out for every step.
      picture.current = element.current?.parentElement?.getBoundingClientRect() ?? null;
      onChoose();
    },
  );
  const onKey = (event: KeyboardEvent) => {
    const wanted = asked(event);
    if (wanted && wanted.end === null) {
      event.preventDefault();
      const by = event.shiftKey ? FINE : 1;
      onStep(by * wanted.along, by * (wanted.up + PAGE * wanted.pages));
    } else if (event.key === "Delete") {
      event.preventDefault();
      onRemove();
    }
  };
  return (
    <div
      ref={element}
      className={classes.band}
      data-lit={lit || undefined}
      style={{ transform: `translate(${Math.round(x) - 14}px, ${Math.round(y) - 14}px)` }}
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(100 * along)}
      aria-valuetext={said}
      onFocus={onChoose}
      onKeyDown={onKey}
      onDoubleClick={(event) => event.stopPropagation()}
      {...drag}
    >
      <span>{number}</span>
    </div>
  );
}
