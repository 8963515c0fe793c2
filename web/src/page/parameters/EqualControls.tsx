/** Moves the parameter in the spotlight until it does as much as the same stage of another snapshot. */
import { useMutation } from "@tanstack/react-query";

import { pathOf, workOf } from "../../bench/edits";
import { usePart } from "../../bench/store";
import { text } from "../../core/core";
import { sentenceOf } from "../../core/faults";
import { fromFile } from "../../core/numbers";
import type { Param } from "../../generated/types/Param";
import type { PathDocument } from "../../generated/types/PathDocument";
import { findEqual } from "../../measuring/measured";
import classes from "./parameters.module.css";

interface Props {
  param: Param;
  onUse: (value: number) => void;
}

export function EqualControls({ param, onUse }: Props) {
  const document = usePart((d) => d);
  const path = pathOf(document);
  const { view } = document;
  const { snapshots, snapshot } = workOf(document);
  const effect = path.stages[view.stage]?.effect;
  const others = snapshots.flatMap((other, index) =>
    index !== snapshot && other.stages[view.stage]?.effect === effect ? [{ other, index }] : [],
  );
  const found = useMutation({
    mutationFn: async (other: PathDocument) => ({ of: path, ...(await findEqual(path, other, view.stage, param.id)) }),
    onSuccess: ({ value, reached }) => reached && onUse(fromFile(value, param.default)),
    networkMode: "always",
  });
  if (!param.outcome || others.length === 0) return null;
  const { data, error } = found;
  // Once anything has been moved it may be otherwise.
  const missed = data?.of === path && !data.reached ? data : null;
  return (
    <>
      {others.map(({ other, index }) => (
        <button
          key={index}
          type="button"
          disabled={found.isPending}
          title={`Moves ${param.label} until its ${param.outcome?.label} is that of snapshot ${index + 1}`}
          onClick={() => found.mutate(other)}
        >
          As much as {index + 1}
        </button>
      ))}
      {(error || missed) && (
        <p role="status" className={classes.equal}>
          {error
            ? sentenceOf(error)
            : `No value of ${param.label} reaches that: ${param.outcome.label} ${text(param.outcome.unit, missed?.outcome ?? null)}.`}
        </p>
      )}
    </>
  );
}
