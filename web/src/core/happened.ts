/** What has gone wrong since the page was loaded, for somebody who reports a fault. */

/** So many of the last ones are kept. */
const KEPT = 20;

interface Fault {
  at: Date;
  what: string;
}

const faults: Fault[] = [];

/** Keeps a fault; the same one again only once in a row. */
export function noteFault(what: string): void {
  if (faults.at(-1)?.what === what) return;
  faults.push({ at: new Date(), what });
  if (faults.length > KEPT) faults.shift();
}

/** The faults, each with its time, oldest first. */
export function faultLines(): string[] {
  return faults.map(({ at, what }) => `${at.toISOString()} ${what}`);
}

/** Keeps what nobody has caught. */
export function watchFaults(): void {
  addEventListener("error", ({ message }) => noteFault(message));
  addEventListener("unhandledrejection", ({ reason }) => noteFault(String(reason)));
}
