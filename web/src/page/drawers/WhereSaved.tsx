/** Where the work of everybody lies, and how it is copied. */
import { Text } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";

import { api } from "../../api/client";
import { Seen } from "./Seen";

export function WhereSaved() {
  const where = useQuery({ queryKey: ["where"], queryFn: api.where, staleTime: Infinity });
  if (!where.data) return null;
  const { folder, backup } = where.data;
  return (
    <details style={{ marginTop: 16 }}>
      <summary>Where is my work?</summary>
      <Text size="sm" mt={6}>
        {folder
          ? "All that is saved lies on the computer that runs Clear Bend, in this folder:"
          : "All that is saved lies in the database that Clear Bend was started with (DATABASE_URL)."}
      </Text>
      {folder && <Seen text={folder} />}
      <Text size="sm" mt={6}>
        {backup
          ? "This copies all of it into one file, also while Clear Bend runs:"
          : "Whoever keeps that database makes its backups."}
      </Text>
      {backup && <Seen text={backup} />}
      <Text size="sm" mt={6}>
        What is not saved yet is kept in this browser.
      </Text>
    </details>
  );
}
