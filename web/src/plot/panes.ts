/** What a frame of a picture is made of. */
import type { ReactNode } from "react";

import type { HandleOf } from "./Handle";
import type { Scales } from "./scales";

export interface Axis {
  domain: [number, number];
  ticks: number[];
  format: (value: number) => string;
}

export interface Pane {
  /** The quantity and its unit, written over the axis. */
  title: string;
  axis: Axis;
  /** Share of the height. */
  share: number;
  /** Draws the dense data. */
  draw: (context: CanvasRenderingContext2D, scales: Scales) => void;
  /** Lines and labels over it. */
  overlay?: (scales: Scales) => ReactNode;
  /** Lines that can be taken hold of. */
  handles?: HandleOf[];
  /** What else can be taken hold of, over the picture. */
  over?: (scales: Scales) => ReactNode;
}
