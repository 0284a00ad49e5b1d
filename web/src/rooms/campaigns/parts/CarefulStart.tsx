import { Checkbox } from "@mantine/core";
import type { Pace } from "../../../core/pace";
import { NumberField } from "../../../ui";
import classes from "./PaceStop.module.css";

interface CarefulStartProps {
  pace: Pace;
  onChange: (change: Partial<Pace>) => void;
}

const SLICE = { people: 50, wait_minutes: 30, bounce_percent: 3 };
const BRAKE = { last: 200, bounce_percent: 5, refused_percent: 10, complaint_percent: 1 };

/** A first slice, and a brake. */
export function CarefulStart({ pace, onChange }: CarefulStartProps) {
  const { first_slice: slice, brake } = pace;
  return (
    <section>
      <h2>Careful start</h2>
      <Checkbox
        label="Begin with a first slice"
        checked={slice !== null}
        onChange={(event) => onChange({ first_slice: event.currentTarget.checked ? SLICE : null })}
      />
      {slice && (
        <div className={classes.sentence}>
          <span>First</span>
          <Small
            label="People of the first slice"
            value={slice.people}
            max={100_000}
            onNumber={(people) => onChange({ first_slice: { ...slice, people } })}
          />
          <span>people, from everywhere. Then wait</span>
          <Small
            label="Minutes to wait after the first slice"
            value={slice.wait_minutes}
            max={20_160}
            onNumber={(wait_minutes) => onChange({ first_slice: { ...slice, wait_minutes } })}
          />
          <span>minutes; go on only if less than</span>
          <Small
            label="Percent of the first slice that may bounce"
            value={slice.bounce_percent}
            max={100}
            whole={false}
            onNumber={(bounce_percent) => onChange({ first_slice: { ...slice, bounce_percent } })}
          />
          <span>% bounce.</span>
        </div>
      )}
      <Checkbox
        label="Pause by itself when too much comes back"
        checked={brake !== null}
        onChange={(event) => onChange({ brake: event.currentTarget.checked ? BRAKE : null })}
      />
      {brake && (
        <div className={classes.sentence}>
          <span>Of the last</span>
          <Small
            label="Answers that the brake looks at"
            value={brake.last}
            min={10}
            max={10_000}
            onNumber={(last) => onChange({ brake: { ...brake, last } })}
          />
          <span>answers:</span>
          <Small
            label="Percent of bounces that brake"
            value={brake.bounce_percent}
            max={100}
            whole={false}
            onNumber={(bounce_percent) => onChange({ brake: { ...brake, bounce_percent } })}
            onBlank={() => onChange({ brake: { ...brake, bounce_percent: null } })}
          />
          <span>% that the address is no good, or</span>
          <Small
            label="Percent of refusals that brake"
            value={brake.refused_percent}
            max={100}
            whole={false}
            onNumber={(refused_percent) => onChange({ brake: { ...brake, refused_percent } })}
            onBlank={() => onChange({ brake: { ...brake, refused_percent: null } })}
          />
          <span>% that refuse us, or</span>
          <Small
            label="Percent of complaints that brake"
            value={brake.complaint_percent}
            max={100}
            whole={false}
            onNumber={(complaint_percent) => onChange({ brake: { ...brake, complaint_percent } })}
            onBlank={() => onChange({ brake: { ...brake, complaint_percent: null } })}
          />
          <span>% of those people who complain.</span>
        </div>
      )}
    </section>
  );
}

interface SmallProps {
  label: string;
  value: number | null;
  min?: number;
  max: number;
  whole?: boolean;
  onNumber: (value: number) => void;
  onBlank?: () => void;
}

function Small({ label, value, min, max, whole = true, onNumber, onBlank }: SmallProps) {
  return (
    <NumberField
      size="xs"
      aria-label={label}
      title={label}
      min={min ?? (whole ? 1 : 0.01)}
      max={max}
      whole={whole}
      value={value}
      onNumber={onNumber}
      {...(onBlank && { onBlank })}
    />
  );
}
