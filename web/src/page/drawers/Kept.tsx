/** How many of a kind are kept, how many may be, and the way to those that are deleted. */
import { Switch, Text } from "@mantine/core";

interface Props {
  /** Whether those are listed that are deleted. */
  deleted: boolean;
  onDeleted: (deleted: boolean) => void;
  what: string;
  plural?: string;
  count: number;
  most: number;
}

export function Kept({ deleted, onDeleted, what, plural = `${what}s`, count, most }: Props) {
  const number = (n: number) => n.toLocaleString("en");
  return (
    <>
      <Text size="xs">
        {deleted
          ? `${number(count)} ${count === 1 ? what : plural} deleted. What is deleted can be taken back for 30 days.`
          : `${number(count)} ${count === 1 ? what : plural} kept, of at most ${number(most)}.`}
      </Text>
      <Switch
        my="xs"
        color="dark"
        label={`Show deleted ${plural}`}
        checked={deleted}
        onChange={({ currentTarget }) => onDeleted(currentTarget.checked)}
      />
    </>
  );
}
