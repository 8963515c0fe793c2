/** How many of a kind are kept, how many may be, and how long a deletion can be taken back. */
import { Text } from "@mantine/core";

interface Props {
  what: string;
  plural?: string;
  count: number;
  most: number;
}

export function Kept({ what, plural = `${what}s`, count, most }: Props) {
  const number = (n: number) => n.toLocaleString("en");
  return (
    <Text size="xs" mb="sm">
      {`${number(count)} ${count === 1 ? what : plural} kept, of at most ${number(most)}. What is deleted can come back for 30 days.`}
    </Text>
  );
}
