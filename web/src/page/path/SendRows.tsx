/** What a stem sends to the shared paths of the bench, each with its level. */
import { useBench, usePart } from "../../bench/store";
import { sharedName, withoutSend, withSend } from "../../bench/sends";
import { stripControl } from "../../core/core";
import { sendTo, sharedPlaces } from "../../measuring/sent";
import { ValueField } from "../../parts/ValueField";
import classes from "./stems.module.css";

interface Props {
  index: number;
  /** The name of the stem. */
  name: string;
}

export function SendRows({ index, name }: Props) {
  const places = usePart((d) => sharedPlaces(d.stems).join());
  if (places === "") return null;
  return places.split(",").map((place) => <SendRow key={place} index={index} name={name} to={Number(place)} />);
}

function SendRow({ index, name, to }: Props & { to: number }) {
  const edit = useBench((s) => s.edit);
  const send = usePart((d) => sendTo(d.stems[index] ?? {}, to));
  const shared = usePart((d) => sharedName(d.stems, to));
  const level = stripControl("send_db");
  if (!send) {
    return (
      <button
        type="button"
        className={classes.begin}
        aria-label={`Send to ${shared}: ${name}`}
        onClick={() => edit(`${name} to ${shared}`, (d) => withSend(d, index, to, {}))}
      >
        Send to {shared}
      </button>
    );
  }
  const before = send.before_strip;
  return (
    <div className={classes.send}>
      <span>→ {shared}</span>
      <ValueField
        label={`Send of ${name} to ${shared}`}
        control={level}
        value={send.level_db}
        onChange={(level_db) =>
          edit(`${name} to ${shared} ${level.text(level_db)}`, (d) => withSend(d, index, to, { level_db }))
        }
      />
      <button
        type="button"
        className={classes.toggle}
        aria-pressed={before}
        aria-label={`before strip: ${name} to ${shared}`}
        title="Taken before the level and the pan of this stem, or after them"
        onClick={() =>
          edit(`${name} to ${shared} ${before ? "after" : "before"} its strip`, (d) =>
            withSend(d, index, to, { before_strip: !before }),
          )
        }
      >
        before strip
      </button>
      <button
        type="button"
        className={classes.toggle}
        aria-label={`Send ${name} to ${shared} no more`}
        onClick={() => edit(`${name} not to ${shared}`, (d) => withoutSend(d, index, to))}
      >
        ×
      </button>
    </div>
  );
}
