import { Modal } from "@mantine/core";
import classes from "./KeysHelp.module.css";

const KEYS = [
  ["Ctrl K", "find people and campaigns, or go somewhere"],
  ["?", "these keys"],
  ["J  K", "next and previous person in the lens and in a trace"],
  ["/", "search the contacts"],
  ["↑ ↓ Enter", "move through the contact table and open a person"],
  ["Space", "tick the person; Shift ↑ ↓ ticks a stretch, Ctrl A all that are loaded"],
  ["@", "in a message: choose a field to insert"],
  ["Ctrl S", "save the message or the audience"],
  ["Esc", "close what is open"],
] as const;

/** The keys, on request. */
export function KeysHelp({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal opened={opened} onClose={onClose} title="Keys">
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
