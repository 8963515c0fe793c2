/** Files write infinity as "inf"; here is the one place that knows. */
export type FileNumber = number | "inf";

export function fromFile(value: FileNumber | undefined, otherwise: number): number {
  if (value === undefined) return otherwise;
  return value === "inf" ? Infinity : value;
}

export function toFile(value: number): FileNumber {
  return value === Infinity ? "inf" : value;
}
