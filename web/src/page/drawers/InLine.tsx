/** How many come first on the server, while something waits there. */
import { Text } from "@mantine/core";

import { useLine } from "../../api/line";

export function InLine() {
  const ahead = useLine((line) => line.ahead);
  const said = ahead === 1 ? "One other comes first." : `${ahead} others come first.`;
  return (
    <Text size="sm" role="status" component="output" hidden={!ahead}>
      {ahead ? said : ""}
    </Text>
  );
}
