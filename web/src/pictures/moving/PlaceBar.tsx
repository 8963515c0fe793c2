/** The slider under a picture that is walked through by hand, and follows what plays. */
import { Slider } from "@mantine/core";

import classes from "../pictures.module.css";

interface Props {
  label: string;
  /** The place, 0 to 1, and how many there are. */
  place: number;
  places: number;
  /** What stands beside it. */
  said: string;
  /** Whether it follows what plays. */
  follows: boolean;
  onChange: (place: number) => void;
}

export function PlaceBar({ label, place, places, said, follows, onChange }: Props) {
  return (
    <div className={classes.bar}>
      <span>{label}</span>
      <Slider
        style={{ flex: 1 }}
        size="sm"
        min={0}
        max={1}
        step={1 / places}
        value={place}
        label={null}
        thumbLabel={label}
        onChange={onChange}
        disabled={follows}
      />
      <span>{said}</span>
    </div>
  );
}
