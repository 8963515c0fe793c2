/** Files write infinity as "inf"; here is the one place that knows. */
export type FileNumber = number | "inf";

export function fromFile(value: FileNumber | undefined, otherwise: FileNumber): number {
  const known = value ?? otherwise;
  return known === "inf" ? Infinity : known;
}

export function toFile(value: number): FileNumber {
  return value === Infinity ? "inf" : value;
}
