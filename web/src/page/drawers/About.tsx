/** Which program this is, whose work is in it, and what has happened, for somebody who reports a fault. */
import { Button, Table, Text } from "@mantine/core";
import { useClipboard } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { engine } from "../../audio/engine";
import { programVersion } from "../../core/core";
import { faultLines } from "../../core/happened";
import { Seen } from "./Seen";

const allLicences = async () => (await import("../../generated/licences.json")).default;

/** What happened, as it is copied. */
function happened(): string {
  const { innerWidth, innerHeight, devicePixelRatio } = window;
  const faults = faultLines();
  return [
    `Clear Bend ${programVersion()}`,
    new Date().toISOString(),
    navigator.userAgent,
    `page ${location.pathname}, ${innerWidth} by ${innerHeight}, ${devicePixelRatio} dots per px`,
    engine.state(),
    ...(faults.length > 0
      ? ["what has gone wrong since the page was loaded:", ...faults]
      : ["nothing has gone wrong since the page was loaded"]),
  ].join("\n");
}

export function About() {
  const { copy, copied, error } = useClipboard({ timeout: 3000 });
  const [shown, setShown] = useState<string | null>(null);
  const act = () => {
    const text = happened();
    setShown(text);
    copy(text);
  };
  return (
    <details style={{ marginTop: 16 }}>
      <summary>About Clear Bend</summary>
      <Text size="sm" my={6}>
        Version {programVersion()}, under the MIT licence. If something goes wrong, copy what happened and send it
        along: which browser this is, how the sound runs and what has failed, and nothing of your work.
      </Text>
      <Button size="compact-sm" variant="default" onClick={act}>
        Copy what happened
      </Button>{" "}
      <Text span size="sm" role="status">
        {error ? "This browser does not let it be copied; mark it here." : copied ? "Copied" : ""}
      </Text>
      {shown !== null && <Seen text={shown} />}
      <Licences />
    </details>
  );
}

/** Of whom all that is shipped comes; a long list, fetched when somebody wants it. */
function Licences() {
  const [opened, setOpened] = useState(false);
  const all = useQuery({ queryKey: ["licences"], queryFn: allLicences, enabled: opened, staleTime: Infinity });
  return (
    <details style={{ marginTop: 12 }} onToggle={({ currentTarget }) => setOpened(currentTarget.open)}>
      <summary>Whose work is in it</summary>
      <Table
        captionSide="top"
        data={{
          caption: "Packages that are shipped, the fonts among them",
          head: ["Package", "Version", "Licence"],
          body: (all.data ?? []).map(({ name, version, licence }) => [name, version, licence]),
        }}
      />
    </details>
  );
}
