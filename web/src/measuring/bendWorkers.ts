/**
 * The workers for what a parameter does over its range, as many as there are cores to spare: each measures its share of the
 * points of every bend and of the values of a fan, and what they find is put together here.
 */
import { moduleBytes, proposedFan } from "../core/core";
import type { BendPoint } from "../generated/types/BendPoint";
import type { Answer, BendAnswer, BendsWanted, FanBlade, ToBendWorker } from "./messages";

/** The page, the sound and the passage have one of two cores each, and more than so many are of no use. */
const OTHERS = 2;
const MOST = 6;

const workerCount = () => Math.min(MOST, Math.max(1, navigator.hardwareConcurrency - OTHERS));

/** A bend of which something has been measured. */
export interface Bend {
  /** The request that it answers. */
  id: number;
  /** At the value that is set. */
  now: BendPoint;
  /** Evenly along the control, both ends included; null where it is not measured yet. */
  points: (BendPoint | null)[];
}

/** A fan, whole or still opening. */
export interface Fan {
  id: number;
  param: string;
  /** How many values it will have. */
  count: number;
  blades: FanBlade[];
}

interface Listener {
  bend(stage: number, param: string, bend: Bend): void;
  fan(fan: Fan): void;
  /** What is not of a bend or a fan. */
  other(answer: Answer): void;
  broke(why: string): void;
}

/** What has come in of a bend. */
type Gathered = Omit<Bend, "now"> & { now: BendPoint | null };

export class BendWorkers {
  private readonly workers: Worker[];
  private wanted: BendsWanted | null = null;
  private bends = new Map<string, Gathered>();
  private blades: (FanBlade | undefined)[] = [];

  constructor(private readonly listener: Listener) {
    this.workers = Array.from({ length: workerCount() }, (_, index) => {
      const worker = new Worker(new URL("./bendWorker.ts", import.meta.url), { type: "module" });
      worker.onmessage = ({ data }: MessageEvent<BendAnswer>) => this.take(data);
      worker.onerror = ({ message }) => listener.broke(message);
      worker.postMessage({
        kind: "module",
        bytes: moduleBytes,
        share: { index, of: workerCount() },
      } satisfies ToBendWorker);
      return worker;
    });
  }

  tell(message: ToBendWorker): void {
    for (const worker of this.workers) worker.postMessage(message);
  }

  /** Wants the bends and the fan of a path, or nothing. */
  want(wanted: BendsWanted | null): void {
    this.wanted = wanted;
    this.blades = [];
    // Values are proposed where the bend turns.
    const proposing = wanted?.fan && !wanted.fan.values;
    this.tell({
      kind: "bends",
      wanted: proposing ? { ...wanted, params: wanted.params.slice(0, 1), fan: null } : wanted,
    });
  }

  end(): void {
    for (const worker of this.workers) worker.terminate();
  }

  private take(answer: BendAnswer): void {
    if (answer.kind === "bend") this.takeBend(answer);
    else if (answer.kind === "blade") this.takeBlade(answer);
    else this.listener.other(answer);
  }

  private takeBend({ id, stage, param, bend }: Extract<BendAnswer, { kind: "bend" }>): void {
    const key = `${stage} ${param}`;
    const last = this.bends.get(key);
    const known = last?.id === id ? last : { id, now: null, points: bend.points.map(() => null) };
    const gathered: Gathered = {
      id,
      now: bend.now ?? known.now,
      points: known.points.map((point, i) => bend.points[i] ?? point),
    };
    this.bends.set(key, gathered);
    const { now, points } = gathered;
    // What is at hand before anything of its range is no bend yet.
    if (!now || points.every((point) => point === null)) return;
    this.listener.bend(stage, param, { id, now, points });
    if (!points.includes(null)) this.openFan(id, param, points as BendPoint[]);
  }

  /** Opens the fan once the bend is whole from which its values are proposed. */
  private openFan(id: number, param: string, points: BendPoint[]): void {
    const { wanted } = this;
    if (!wanted?.fan || wanted.fan.values || wanted.id !== id || wanted.params[0] !== param) return;
    const values = proposedFan(wanted.path, wanted.stage, param, points, wanted.fan.count);
    // Its bend is whole; it is the fan's parameter all the same.
    this.wanted = { ...wanted, fan: { ...wanted.fan, values } };
    this.tell({ kind: "bends", wanted: this.wanted });
  }

  private takeBlade({ id, param, count, at, blade }: Extract<BendAnswer, { kind: "blade" }>): void {
    if (this.wanted?.id !== id) return;
    this.blades[at] = blade;
    const missing = Array.from({ length: count }, (_, i) => this.blades[i]).indexOf(undefined);
    const blades = this.blades.slice(0, missing < 0 ? count : missing) as FanBlade[];
    if (blades.length > 0) this.listener.fan({ id, param, count, blades });
  }
}
