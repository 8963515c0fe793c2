/** The numbered snapshots of the path: choose one, keep another, copy, compare. */
import { ActionIcon, Button, Menu, Modal, Table, Text } from "@mantine/core";
import { useState } from "react";

import { withoutSnapshot, withSnapshot, withSnapshotAdded, withSnapshotCopied, workOf } from "../../bench/edits";
import { useBench, usePart } from "../../bench/store";
import { differences } from "../../core/core";
import type { PathDocument } from "../../generated/types/PathDocument";
import { focusNext } from "../../parts/focus";
import classes from "./foot.module.css";

export function chooseSnapshot(index: number): void {
  const { look, history } = useBench.getState();
  const { snapshots, snapshot } = workOf(history.present.document);
  if (index < snapshots.length && index !== snapshot) {
    look((d) => withSnapshot(d, index));
  }
}

export function SnapshotsBar() {
  const snapshots = usePart((d) => workOf(d).snapshots);
  const chosen = usePart((d) => workOf(d).snapshot);
  const edit = useBench((s) => s.edit);
  const [compared, setCompared] = useState<number | null>(null);
  return (
    <div className={classes.snapshots} role="group" aria-label="Snapshots">
      {snapshots.map((_, i) => (
        <button
          key={i}
          type="button"
          className={classes.snapshot}
          aria-pressed={i === chosen}
          aria-label={`Snapshot ${i + 1}`}
          onClick={() => chooseSnapshot(i)}
        >
          {i + 1}
        </button>
      ))}
      <ActionIcon
        variant="default"
        size={28}
        aria-label="Keep as a new snapshot"
        title="Keep as a new snapshot"
        onClick={() => edit(`New snapshot ${snapshots.length + 1}`, withSnapshotAdded)}
      >
        +
      </ActionIcon>
      {snapshots.length > 1 && (
        <Menu position="top">
          <Menu.Target>
            <Button size="xs" variant="default" data-compare>
              Compare
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            {snapshots.map(
              (_, i) =>
                i !== chosen && (
                  <Menu.Item key={`differs ${i}`} onClick={() => setCompared(i)}>
                    In what {chosen + 1} and {i + 1} differ
                  </Menu.Item>
                ),
            )}
            {snapshots.map(
              (_, i) =>
                i !== chosen && (
                  <Menu.Item
                    key={`copy ${i}`}
                    onClick={() => edit(`Copy snapshot ${chosen + 1} to ${i + 1}`, (d) => withSnapshotCopied(d, i))}
                  >
                    Copy {chosen + 1} over {i + 1}
                  </Menu.Item>
                ),
            )}
            <Menu.Item onClick={() => edit(`Remove snapshot ${chosen + 1}`, (d) => withoutSnapshot(d, chosen))}>
              Remove {chosen + 1}
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
      )}
      <Modal
        opened={compared !== null}
        onClose={() => setCompared(null)}
        returnFocus={false}
        onExitTransitionEnd={() => focusNext("[data-compare]")}
        title={`Snapshots ${chosen + 1} and ${(compared ?? 0) + 1}`}
      >
        {compared !== null && (
          <Differences one={snapshots[chosen]} other={snapshots[compared]} names={[chosen + 1, compared + 1]} />
        )}
      </Modal>
    </div>
  );
}

interface Props {
  one: PathDocument | undefined;
  other: PathDocument | undefined;
  names: [number, number];
}

function Differences({ one, other, names }: Props) {
  const found = one && other ? differences(one, other) : [];
  if (found.length === 0) return <Text size="sm">They are the same.</Text>;
  return (
    <Table
      data={{
        head: ["Setting", `Snapshot ${names[0]}`, `Snapshot ${names[1]}`],
        body: found.map((d) => [`${d.stage} ${d.effect}: ${d.label}`, d.one, d.other]),
      }}
    />
  );
}
