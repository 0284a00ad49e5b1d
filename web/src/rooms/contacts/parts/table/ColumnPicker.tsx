import { ActionIcon, Button, Checkbox, Popover } from "@mantine/core";
import { IconArrowDown, IconArrowUp } from "@tabler/icons-react";
import { useCallback, useState } from "react";
import { type Column, type ColumnKind, moveColumn, toggleColumn } from "../../../../core/table";
import { useEscape } from "../../../../ui";
import classes from "./ColumnPicker.module.css";

interface ColumnPickerProps {
  columns: Column[];
  kinds: ColumnKind[];
  onColumns: (columns: Column[]) => void;
}

/** Which columns the table has, and in which order. */
export function ColumnPicker({ columns, kinds, onColumns }: ColumnPickerProps) {
  const [opened, setOpened] = useState(false);
  useEscape(
    opened,
    useCallback(() => setOpened(false), []),
  );
  const shown = columns.flatMap((one) => kinds.find((kind) => kind.key === one.key) ?? []);
  const hidden = kinds.filter((kind) => !columns.some((one) => one.key === kind.key));
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" withinPortal trapFocus>
      <Popover.Target>
        <Button size="sm" onClick={() => setOpened(!opened)}>
          Columns
        </Button>
      </Popover.Target>
      <Popover.Dropdown className={classes.drop ?? ""}>
        {shown.map((kind) => (
          <div key={kind.key} className={classes.line}>
            <Checkbox
              size="xs"
              label={kind.label}
              checked
              onChange={() => onColumns(toggleColumn(columns, kind.key))}
            />
            <ActionIcon
              variant="subtle"
              color="gray"
              size="sm"
              aria-label={`${kind.label} further left`}
              onClick={() => onColumns(moveColumn(columns, kind.key, -1))}
            >
              <IconArrowUp size={14} />
            </ActionIcon>
            <ActionIcon
              variant="subtle"
              color="gray"
              size="sm"
              aria-label={`${kind.label} further right`}
              onClick={() => onColumns(moveColumn(columns, kind.key, 1))}
            >
              <IconArrowDown size={14} />
            </ActionIcon>
          </div>
        ))}
        {hidden.length > 0 && <div className={classes.rule} />}
        {hidden.map((kind) => (
          <div key={kind.key} className={classes.line}>
            <Checkbox
              size="xs"
              label={kind.label}
              checked={false}
              onChange={() => onColumns(toggleColumn(columns, kind.key))}
            />
          </div>
        ))}
      </Popover.Dropdown>
    </Popover>
  );
}
