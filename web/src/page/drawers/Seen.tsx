/** A text that is copied from here: all of it is seen, however long. */
import { Code } from "@mantine/core";

export function Seen({ text }: { text: string }) {
  return (
    <Code
      block
      mt={4}
      bg="none"
      style={{ border: "1px solid var(--rule)", whiteSpace: "pre-wrap", overflowWrap: "anywhere" }}
    >
      {text}
    </Code>
  );
}
