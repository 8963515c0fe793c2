/** On a send the mix belongs at 100 % wet: offered where it is not. */
import { Button } from "@mantine/core";

import { pathOf, withStage, withValue } from "../../bench/edits";
import { useBench } from "../../bench/store";
import { effectOf } from "../../core/core";
import type { Report } from "../../generated/types/Report";

export function DryAdvice({ report }: { report: Report }) {
  const edit = useBench((s) => s.edit);
  const stages = useBench((s) => pathOf(s.history.present.document).stages);
  const names = report.dry_stages.flatMap((index) =>
    stages[index] ? [effectOf(stages[index]).label.toLowerCase()] : [],
  );
  if (names.length === 0) return null;
  const label = `Set the ${names.join(" and the ")} to 100 % wet`;
  const all = () =>
    edit(label, (d) =>
      report.dry_stages.reduce(
        (bench, index) => withStage(bench, index, (stage) => withValue(stage, effectOf(stage).mix, 1)),
        d,
      ),
    );
  return (
    <Button size="xs" variant="default" style={{ alignSelf: "start" }} onClick={all}>
      {label}
    </Button>
  );
}
