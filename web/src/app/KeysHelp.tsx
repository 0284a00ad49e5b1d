import { Modal, Switch } from "@mantine/core";
import { useSingleKeys } from "../ui";
import classes from "./KeysHelp.module.css";

const KEYS = [
  ["Ctrl K", "find people and campaigns, or go somewhere"],
  ["?", "these keys"],
  ["J  K", "next and previous person in the lens, in a trace and in Responses"],
  ["D", "in Responses: mark a reply as done"],
  ["W", "in the lens: the next person who reads a fallback"],
  ["/", "search the contacts"],
  ["↑ ↓ Enter", "move through the contact table and open a person"],
  ["Space", "tick the person; Shift ↑ ↓ ticks a stretch, Ctrl A all that are loaded"],
  ["@", "in a message: choose a field to insert"],
  ["Alt ↑  Alt ↓", "in a message: move the block"],
  ["Ctrl Z", "in a message: undo, whatever it was; Ctrl Shift Z does it again"],
  ["← → Enter", "among proofs: choose one, and say that it is right"],
  ["Ctrl S", "save the message or the audience"],
  ["Esc", "close what is open"],
] as const;

/** The keys, on request. */
export function KeysHelp({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const [single, setSingle] = useSingleKeys();
  return (
    <Modal opened={opened} onClose={onClose} title="Keys">
      <Switch
        mb="md"
        label="Keys without Ctrl are commands"
        description="Switched off, only Esc and keys with Ctrl do something, and what one types in a field"
        checked={single}
        onChange={(event) => setSingle(event.currentTarget.checked)}
      />
      <dl className={classes.keys}>
        {KEYS.map(([keys, words]) => (
          <div key={keys}>
            <dt>
              <kbd>{keys}</kbd>
            </dt>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </Modal>
  );
}
