/** How a bend is measured: where it stands now, then over the whole range at first sight, then all between. */
import type { BendPoint } from "../generated/types/BendPoint";
import type { MeasuringBench } from "../generated/wasm/clear_bend_wasm.js";

/** A bend as far as it is measured. */
export interface BendSoFar {
  /** At the value that is set; null where it is measured elsewhere. */
  now: BendPoint | null;
  /** Evenly along the control, both ends included; null where it is not measured yet, or elsewhere. */
  points: (BendPoint | null)[];
}

/** Which of so many workers it is that measures. */
export interface Share {
  index: number;
  of: number;
}

/** Of points that take longer than this, fewer are seen first, and each as soon as it is there, ms. */
const SLOW_MS = 25;
const SLOWER_MS = 100;

/** From step to step, points half-way between those that are there; and how far that goes at first sight, of slow points in the first
 * bend that is wanted and in others. */
export const STEPS = [16, 8, 4, 2, 1];
const FIRST = 2;
const FIRST_OF_SLOW = 4;
const FIRST_OF_SLOWER = 8;
const GLANCE_OF_SLOW = 16;

/** Bends with no more points than this are measured at once. */
const FEW_POINTS = 9;

/** Both ends, then what is half-way, and so on. */
function inOrder(count: number): number[] {
  const rank = (i: number) => STEPS.findIndex((step) => i % step === 0);
  return Array.from({ length: count }, (_, i) => i).sort((a, b) => rank(a) - rank(b) || a - b);
}

/** One of the bends of the path on a bench, or a worker's share of it; a breath is taken before every point. */
export class BendMeasuring {
  private readonly points: (BendPoint | null)[];
  /** The points that are measured here. */
  private readonly own: number[];
  private now: BendPoint | null = null;
  private took = 0;
  private said = false;

  constructor(
    private readonly bench: MeasuringBench,
    private readonly stage: number,
    private readonly param: string,
    private readonly share: Share,
    private readonly breath: () => Promise<void>,
  ) {
    this.points = Array.from({ length: bench.bendPoints(stage, param) }, () => null);
    this.own = inOrder(this.points.length).filter((_, place) => place % share.of === share.index);
  }

  /** Where it stands now, which is the same passage for all bends of a path. */
  async present(): Promise<void> {
    if (this.share.index !== 0) return;
    await this.breath();
    this.now = this.timed(() => this.bench.bendNow(this.stage, this.param));
  }

  /** Points over the whole range, the fewer the slower they are; of the first bend that is wanted more than of others. */
  async *firstSights(isFirst: boolean): AsyncGenerator<BendSoFar> {
    const [first] = this.own;
    if (first !== undefined && this.points[first] === null) {
      await this.breath();
      this.point(first);
      if (this.took > SLOW_MS) yield this.soFar();
    }
    const ofSlow = isFirst ? (this.took > SLOWER_MS ? FIRST_OF_SLOWER : FIRST_OF_SLOW) : GLANCE_OF_SLOW;
    yield* this.until(this.points.length <= FEW_POINTS ? 1 : this.took > SLOW_MS ? ofSlow : FIRST);
    if (!this.said) yield this.soFar();
  }

  /** Those of its own that are every so many points from the first on, and not measured yet; the bench remembers others. */
  async *until(step: number): AsyncGenerator<BendSoFar> {
    const missing = this.own.filter((i) => i % step === 0 && this.points[i] === null);
    for (const [k, i] of missing.entries()) {
      await this.breath();
      this.point(i);
      if (this.took > SLOW_MS || k === missing.length - 1) yield this.soFar();
    }
  }

  private point(i: number): void {
    this.points[i] = this.timed(() => this.bench.bendPoint(this.stage, this.param, i));
  }

  /** Points take as long as the slowest so far: those at one end may be much quicker than others. */
  private timed(measure: () => BendPoint): BendPoint {
    const start = performance.now();
    const point = measure();
    this.took = Math.max(this.took, performance.now() - start);
    return point;
  }

  private soFar(): BendSoFar {
    this.said = true;
    return { now: this.now, points: [...this.points] };
  }
}
