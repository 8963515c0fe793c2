/** A parameter whose values are a few choices. */
import { NativeSelect, SegmentedControl } from "@mantine/core";

/** Choices with so many letters together stand side by side; longer ones drop down. */
const MOST_LETTERS = 26;

interface Props {
  label: string;
  choices: string[];
  value: number;
  onChange: (value: number) => void;
}

export function ValueChoice({ label, choices, value, onChange }: Props) {
  const data = choices.map((choice, i) => ({ value: String(i), label: choice }));
  const set = (next: string) => onChange(Number(next));
  return choices.join("").length <= MOST_LETTERS ? (
    <SegmentedControl size="xs" fullWidth aria-label={label} data={data} value={String(value)} onChange={set} />
  ) : (
    <NativeSelect
      size="xs"
      aria-label={label}
      data={data}
      value={String(value)}
      onChange={({ target }) => set(target.value)}
    />
  );
}
