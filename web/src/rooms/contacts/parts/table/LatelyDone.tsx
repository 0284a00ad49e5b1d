import { Button, Popover } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, take, useMay, useWords, wordsOf } from "../../../../api";
import { people } from "../../../../core/words";
import { announce } from "../../../../ui";
import { changesQuery, tableMailsQuery } from "../../queries";
import classes from "./LatelyDone.module.css";

/** What was done to many at once, with its undo for as long as there is one. */
export function LatelyDone() {
  const queries = useQueryClient();
  const words = useWords();
  const may = useMay();
  const [opened, setOpened] = useState(false);
  const { data: lines } = useQuery({ ...changesQuery, enabled: opened });
  const { data: mails } = useQuery({ ...tableMailsQuery, enabled: opened });
  const undo = useMutation({
    mutationFn: (id: number) =>
      take(client.POST("/api/changes/{change_set_id}/undo", { params: { path: { change_set_id: id } } })),
    onSuccess: (done) => {
      void renew(queries);
      announce(done.words);
    },
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  return (
    <Popover opened={opened} onChange={setOpened} position="bottom-end" withinPortal trapFocus>
      <Popover.Target>
        <Button onClick={() => setOpened(!opened)}>Recent changes</Button>
      </Popover.Target>
      <Popover.Dropdown className={classes.drop ?? ""}>
        {lines?.length === 0 && <p className="soft">Nothing was done to many at once yet.</p>}
        {lines?.map((line) => (
          <div key={line.id} className={classes.line}>
            <span>
              <b>{line.what}</b>
              <span className="soft">
                {" "}
                · {people(line.contacts)} · {words.moment(line.at)}
                {line.by && ` · ${line.by}`}
              </span>
            </span>
            {line.undone ? (
              <span className="faint">undone</span>
            ) : (
              line.undoable &&
              may("contacts") && (
                <Button
                  size="compact-xs"
                  aria-label={`Undo: ${line.what}`}
                  loading={undo.isPending && undo.variables === line.id}
                  onClick={() => undo.mutate(line.id)}
                >
                  Undo
                </Button>
              )
            )}
          </div>
        ))}
        {mails && mails.length > 0 && <h3>Sent to colleagues</h3>}
        {mails?.map((mail) => (
          <div key={mail.at} className={classes.line}>
            <span>
              <b>
                {people(mail.contacts)} to {mail.to_address}
              </b>
              <span className="soft">
                {" "}
                · {mail.form.toUpperCase()}, {mail.columns.length} columns · {words.moment(mail.at)}
                {mail.by && ` · ${mail.by}`}
                {!mail.accepted && ` · not taken: ${mail.answer}`}
              </span>
            </span>
          </div>
        ))}
      </Popover.Dropdown>
    </Popover>
  );
}
