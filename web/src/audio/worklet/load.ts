/** How much of its time the audio thread needs. Its clock counts whole milliseconds only, which over two seconds is enough. */

/** Over so many blocks it is taken: two seconds. */
const BLOCKS = 750;
/** From this share on, the machine is too slow for everything that runs. */
const TOO_MUCH = 0.6;

export class Load {
  private spent = 0;
  private blocks = 0;
  /** Blocks that took longer than they last: each may have been heard as a gap. */
  late = 0;

  /** Counts a block, and says whether those of the last seconds have needed too much. */
  isTooMuch(milliseconds: number, blockMilliseconds: number): boolean {
    this.spent += milliseconds;
    if (milliseconds > blockMilliseconds) this.late++;
    if (++this.blocks < BLOCKS) return false;
    const share = this.spent / (this.blocks * blockMilliseconds);
    this.spent = this.blocks = 0;
    return share > TOO_MUCH;
  }
}
