/** Work of which only the newest matters: between two parts of it, whoever does it looks whether something newer has come. */

/** Something newer has come: the rest is not wanted any more. */
export class Overtaken extends Error {}

export const pause = (ms: number) => new Promise((resolve) => setTimeout(resolve, ms));

export class Newest<T> {
  private next: T | null = null;
  private working = false;
  private stale = false;

  constructor(private readonly serve: (wanted: T) => Promise<void>) {}

  /** Wants something, or nothing: what is being done is left at its next breath. */
  put(wanted: T | null): void {
    this.next = wanted;
    this.stale = true;
    if (!this.working) void this.work();
  }

  /** Lets messages that have come in meanwhile be heard, and stops if one of them is newer. */
  async breath(): Promise<void> {
    await new Promise<void>((resolve) => {
      const channel = new MessageChannel();
      channel.port1.onmessage = () => resolve();
      channel.port2.postMessage(null);
    });
    this.stopIfOvertaken();
  }

  stopIfOvertaken(): void {
    if (this.stale) throw new Overtaken();
  }

  private async work(): Promise<void> {
    this.working = true;
    while (this.next !== null) {
      const wanted = this.next;
      this.next = null;
      this.stale = false;
      await this.serve(wanted);
      await this.breath().catch(() => {});
    }
    this.working = false;
  }
}

/**
 * Answers that follow a hand: two questions may be under way, so that whoever answers never waits for this side, and of all others only
 * the newest is asked.
 */
export class Following<T> {
  private next: T | null = null;
  private underWay = 0;

  constructor(private readonly ask: (wanted: T) => Promise<void>) {}

  put(wanted: T): void {
    this.next = wanted;
    this.go();
  }

  private go(): void {
    if (this.next === null || this.underWay === 2) return;
    const wanted = this.next;
    this.next = null;
    this.underWay++;
    void this.ask(wanted).finally(() => {
      this.underWay--;
      this.go();
    });
  }
}
