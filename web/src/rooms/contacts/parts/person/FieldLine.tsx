import { Button, Group, VisuallyHidden } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, type KeyboardEvent, useState } from "react";
import { ApiProblem, client, renew, type Schemas, take, useMay, wordsOf } from "../../../../api";
import { inputText } from "../../../../core/values";
import { fieldValue } from "../../../../core/words";
import { Trouble } from "../../../../ui";
import classes from "./FieldLine.module.css";
import { ValueInput } from "./ValueInput";

interface FieldLineProps {
  personId: number;
  field: Schemas["FieldView"];
  /** The value as it is stored; null: blank. */
  stored: unknown;
}

/** One field of a person: a click or Enter edits it, Enter keeps it, Esc leaves it. */
export function FieldLine({ personId, field, stored }: FieldLineProps) {
  const queries = useQueryClient();
  const may = useMay()("contacts");
  const [text, setText] = useState<string>();
  // What stood here when the editing began: the server refuses to overwrite anything else.
  const [before, setBefore] = useState<unknown>(null);
  const save = useMutation({
    mutationFn: () =>
      take(
        client.PUT("/api/contacts/{contact_id}/values/{key}", {
          params: { path: { contact_id: personId, key: field.key } },
          body: { before, text: text ?? "" },
        }),
      ),
    onSuccess: () => {
      setText(undefined);
      void renew(queries, "contacts");
    },
    onError: () => renew(queries, { queryKey: ["contacts", "person", personId] }),
  });
  function begin() {
    save.reset();
    setBefore(stored);
    setText(field.type === "list" ? JSON.stringify(stored ?? []) : inputText(stored, field.type));
  }
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const late = save.error instanceof ApiProblem && save.error.status === 409;
  const shown = fieldValue(stored, field.type, field.parts[0]?.key);
  const told = (
    <>
      <span className="soft">
        {may && <VisuallyHidden>Change </VisuallyHidden>}
        {field.label}{" "}
      </span>
      {field.type === "list" && Array.isArray(stored) ? (
        <span className={classes.items}>
          {stored.map((item: Record<string, unknown>, index) => (
            <span key={index}>
              {field.parts
                .map((part) => fieldValue(item[part.key], part.type))
                .filter(Boolean)
                .join(" · ")}
            </span>
          ))}
        </span>
      ) : (
        <span className={classes.value}>{shown ? <bdi>{shown}</bdi> : <span className="faint">—</span>}</span>
      )}
    </>
  );
  if (!may)
    return (
      <div className={classes.line} title={field.help || undefined}>
        {told}
      </div>
    );
  if (text === undefined)
    return (
      <button type="button" className={classes.line} title={field.help || undefined} onClick={begin}>
        {told}
      </button>
    );
  return (
    <form
      className={classes.edit}
      onSubmit={submit}
      onKeyDown={(event: KeyboardEvent) => {
        if (event.key !== "Escape") return;
        event.stopPropagation();
        setText(undefined);
      }}
    >
      <ValueInput label={field.label} field={field} text={text} onText={setText} autoFocus />
      {save.error && (
        <Trouble>
          {wordsOf(save.error)}
          {late && (
            <>
              {" "}
              Theirs: <b>{shown || "blank"}</b>
            </>
          )}
        </Trouble>
      )}
      <Group gap={6} wrap="nowrap" mt={6}>
        <Button type="submit" size="compact-xs" variant="filled" loading={save.isPending}>
          Save
        </Button>
        {late && (
          <>
            <Button
              size="compact-xs"
              onClick={() => {
                setBefore(stored);
                save.reset();
              }}
            >
              Keep mine
            </Button>
            <Button size="compact-xs" onClick={() => setText(undefined)}>
              Take theirs
            </Button>
          </>
        )}
        <Button size="compact-xs" onClick={() => setText(undefined)}>
          Cancel
        </Button>
      </Group>
    </form>
  );
}
