import { Button, Menu } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, fetchFile, May, renew, type Schemas, take, wordsOf } from "../../../../api";
import type { Column, ColumnKind } from "../../../../core/table";
import { type Ticks, tickedCount } from "../../../../core/ticks";
import { count } from "../../../../core/words";
import { announce, Trouble } from "../../../../ui";
import type { Wanted } from "../../queries";
import { BulkDialog, type BulkKind } from "./BulkDialog";
import { MailTable } from "./MailTable";
import classes from "./SelectionBar.module.css";

interface SelectionBarProps {
  ticks: Ticks;
  wanted: Wanted;
  /** How many match, ticked or not. */
  matching: number;
  columns: Column[];
  kinds: ColumnKind[];
  onTickAll: () => void;
  onDone: () => void;
}

/** How many are ticked, and what can be done with them. */
export function SelectionBar({
  ticks,
  wanted,
  matching,
  columns,
  kinds,
  onTickAll,
  onDone,
}: SelectionBarProps) {
  const queries = useQueryClient();
  const [dialog, setDialog] = useState<BulkKind>();
  const [mailing, setMailing] = useState(false);
  const seen = tickedCount(ticks, matching);
  const who: Schemas["Selected"] = ticks.all
    ? { ...wanted, seen }
    : { search: "", criteria: "", ids: [...ticks.ids], seen };
  function done(result: Schemas["BulkResult"]) {
    void renew(queries);
    setDialog(undefined);
    onDone();
    tell(result, () => renew(queries));
  }
  const file = useMutation({
    mutationFn: (form: "csv" | "xlsx") =>
      fetchFile("/api/bulk/export", {
        who,
        form,
        columns: columns.map((one) => one.key).filter((key) => kinds.some((kind) => kind.key === key)),
      }),
  });
  return (
    <section className={classes.bar} aria-label="With those who are ticked">
      <b>
        {count(seen)} ticked{ticks.all && ", all that match"}
      </b>
      {!ticks.all && matching > seen && (
        <Button size="compact-sm" variant="subtle" onClick={onTickAll}>
          Tick all {count(matching)} that match
        </Button>
      )}
      <span className={classes.room} />
      <May be="contacts">
        <Button onClick={() => setDialog("tag")}>Tag…</Button>
        <Button onClick={() => setDialog("set")}>Set a field…</Button>
        <Button onClick={() => setDialog("subscribe")}>Subscribe…</Button>
        <Button onClick={() => setDialog("pick")}>Audience…</Button>
      </May>
      <May be="export">
        <Menu>
          <Menu.Target>
            <Button loading={file.isPending}>Export</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => file.mutate("csv")}>As CSV, with these columns</Menu.Item>
            <Menu.Item onClick={() => file.mutate("xlsx")}>As XLSX, with these columns</Menu.Item>
            <May be="hand_out">
              <Menu.Divider />
              <Menu.Item onClick={() => setMailing(true)}>Send to a colleague…</Menu.Item>
            </May>
          </Menu.Dropdown>
        </Menu>
      </May>
      <May be="contacts">
        <Menu>
          <Menu.Target>
            <Button>More</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => setDialog("untag")}>Take a tag off…</Menu.Item>
            <Menu.Item onClick={() => setDialog("leave-out")}>Never write to them…</Menu.Item>
            <Menu.Item onClick={() => setDialog("delete")}>Delete…</Menu.Item>
            <May be="erase">
              <Menu.Divider />
              <Menu.Item color="red.8" onClick={() => setDialog("erase")}>
                Erase for good…
              </Menu.Item>
            </May>
          </Menu.Dropdown>
        </Menu>
      </May>
      <Button variant="subtle" color="gray" onClick={onDone}>
        Untick&nbsp;<kbd>Esc</kbd>
      </Button>
      {file.error && (
        <div className={classes.fault}>
          <Trouble>{wordsOf(file.error)}</Trouble>
        </div>
      )}
      {mailing && <MailTable who={who} columns={columns} kinds={kinds} onClose={() => setMailing(false)} />}
      {dialog && <BulkDialog kind={dialog} who={who} onClose={() => setDialog(undefined)} onDone={done} />}
    </section>
  );
}

/** Say what was done, with its undo. */
function tell(result: Schemas["BulkResult"], onUndone: () => void) {
  const { words, change_set_id: number } = result;
  if (number === null) return announce(words);
  announce(words, {
    undo: {
      key: String(number),
      act: async () => {
        const path = { change_set_id: number };
        const undone = await take(client.POST("/api/changes/{change_set_id}/undo", { params: { path } }));
        onUndone();
        announce(undone.words);
      },
    },
  });
}
