/** How a bend is measured: point by point, the whole range at first sight, then all between. */
import type { BendPoint } from "../generated/types/BendPoint";
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";

/** Bends with more points than this are first seen with fewer. */
const FEW_POINTS = 9;

/** Points that take longer than this are fewer at first sight, ms; those that take still longer come in two sights. */
const SLOW_MS = 25;
const SLOWEST_MS = 60;

/** One of the bends of the path on a bench; a breath is taken before every point. */
export class BendMeasuring {
  private readonly count: number;

  constructor(
    private readonly bench: MeasuringBench,
    private readonly stage: number,
    private readonly param: string,
    private readonly breath: () => Promise<void>,
  ) {
    this.count = bench.bendPoints(stage, param);
  }

  /** Points over the whole range, the fewer the slower they are. */
  async *firstSights(): AsyncGenerator<BendPoint[]> {
    const start = performance.now();
    await this.points(this.count);
    const pointMs = performance.now() - start;
    const steps = this.count <= FEW_POINTS ? [1] : pointMs > SLOWEST_MS ? [8, 4] : pointMs > SLOW_MS ? [4] : [2];
    for (const step of steps) yield await this.points(step);
  }

  /** All points; none where there were no fewer at first sight. */
  async *whole(): AsyncGenerator<BendPoint[]> {
    if (this.count > FEW_POINTS) yield await this.points(1);
  }

  /** Every so many points from the first on; the bench remembers those that it has measured. */
  private async points(step: number): Promise<BendPoint[]> {
    const points: BendPoint[] = [];
    for (let i = 0; i < this.count; i += step) {
      await this.breath();
      points.push(JSON.parse(this.bench.bendPointJson(this.stage, this.param, i)) as BendPoint);
    }
    return points;
  }
}
