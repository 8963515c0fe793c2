/** Where values lie in a pane. */
import type { ScaleLinear } from "d3-scale";

export interface Scales {
  x: ScaleLinear<number, number>;
  y: ScaleLinear<number, number>;
  left: number;
  right: number;
  top: number;
  bottom: number;
}
