/** How a bend is measured: where it stands now, then over the whole range at first sight, then all between. */
import type { BendPoint } from "../generated/types/BendPoint";
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";

/** A bend as far as it is measured. */
export interface BendSoFar {
  /** At the value that is set. */
  now: BendPoint;
  /** Evenly along the control, both ends included; null where it is not measured yet. */
  points: (BendPoint | null)[];
}

/** Bends with more points than this are first seen with fewer. */
const FEW_POINTS = 9;

/** Of points that take longer than this, fewer are seen first, and each as soon as it is there, ms. */
const SLOW_MS = 25;

/** One of the bends of the path on a bench; a breath is taken before every point. */
export class BendMeasuring {
  private readonly points: (BendPoint | null)[];
  private now: BendPoint | null = null;
  private slow = false;

  constructor(
    private readonly bench: MeasuringBench,
    private readonly stage: number,
    private readonly param: string,
    private readonly breath: () => Promise<void>,
  ) {
    this.points = Array.from({ length: bench.bendPoints(stage, param) }, () => null);
  }

  /** Where it stands now, and points over the whole range, the fewer the slower they are. */
  async *firstSights(): AsyncGenerator<BendSoFar> {
    await this.breath();
    const start = performance.now();
    this.now = JSON.parse(this.bench.bendNowJson(this.stage, this.param)) as BendPoint;
    this.slow = performance.now() - start > SLOW_MS;
    yield* this.every(this.points.length <= FEW_POINTS ? 1 : this.slow ? 4 : 2);
  }

  /** All points; none where there were no fewer at first sight. */
  async *whole(): AsyncGenerator<BendSoFar> {
    if (this.points.includes(null)) yield* this.every(1);
  }

  /** Every so many points from the first on; the bench remembers those that it has measured. */
  private async *every(step: number): AsyncGenerator<BendSoFar> {
    for (let i = 0; i < this.points.length; i += step) {
      if (this.points[i]) continue;
      await this.breath();
      this.points[i] = JSON.parse(this.bench.bendPointJson(this.stage, this.param, i)) as BendPoint;
      // With the present one, three are a line.
      if (this.slow && i > 0) yield* this.soFar();
    }
    if (!this.slow) yield* this.soFar();
  }

  private *soFar(): Generator<BendSoFar> {
    if (this.now) yield { now: this.now, points: [...this.points] };
  }
}
