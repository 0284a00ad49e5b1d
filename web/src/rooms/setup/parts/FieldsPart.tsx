import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { TYPE_WORDS } from "../../../core/fields";
import { moved } from "../../../core/order";
import { count } from "../../../core/words";
import { announce, PageHead } from "../../../ui";
import classes from "../SetupPage.module.css";
import { FieldDialog, NEW_FIELD } from "./FieldDialog";
import { MoveButtons } from "./MoveButtons";

type Field = Schemas["FieldView"];

const draftOf = (field: Field): Schemas["FieldSave"] => ({
  key: field.key,
  label: field.label,
  type: field.type,
  currency: field.currency,
  choices: field.choices,
  help: field.help,
  parts: field.parts.map((part) => ({ ...part, parts: [], help: "" })),
});

/** The organisation's own fields: made, changed, ordered, removed and brought back. */
export function FieldsPart({ fields }: { fields: Field[] }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState<{ draft: Schemas["FieldSave"]; changing?: string }>();
  const { data: removed } = useQuery({
    queryKey: ["removed-fields"],
    queryFn: () => take(client.GET("/api/removed-fields")),
  });
  const own = fields.filter((field) => !field.standard).map((field) => field.key);
  const told = { onError: (fault: Error) => announce(wordsOf(fault), { bad: true }) };
  const refresh = () => {
    void renew(queries, { queryKey: vocabularyQuery.queryKey }, "removed-fields");
  };
  const restore = useMutation({
    mutationFn: (key: string) =>
      take(client.POST("/api/fields/{key}/restore", { params: { path: { key } } })),
    onSuccess: refresh,
    ...told,
  });
  const remove = useMutation({
    mutationFn: (field: Field) =>
      take(client.DELETE("/api/fields/{key}", { params: { path: { key: field.key } } })),
    onSuccess: (_, field) => {
      refresh();
      announce(`${field.label} is removed. Its values are kept; it can be brought back below.`);
    },
    ...told,
  });
  const order = useMutation({
    mutationFn: (keys: string[]) => take(client.POST("/api/fields-order", { body: { keys } })),
    onSuccess: refresh,
    ...told,
  });
  return (
    <section aria-label="Fields">
      <PageHead title="Fields">
        <Button onClick={() => setOpen({ draft: NEW_FIELD })}>New field</Button>
      </PageHead>
      {fields.map((field) => (
        <div key={field.key} className={classes.line}>
          <b>{field.label}</b>
          <span className="soft">
            {TYPE_WORDS[field.type] ?? field.type}
            {field.currency && `, ${field.currency}`}
            {field.choices.length > 0 && `: ${field.choices.join(", ")}`}
            {field.parts.length > 0 && `: ${field.parts.map((part) => part.label).join(", ")}`} ·{" "}
            {field.estimated && "about "}
            {count(field.blank)} blank <span className="mono">{field.key}</span>
          </span>
          <span className={classes.acts}>
            {!field.standard && (
              <>
                <MoveButtons label={field.label} onMove={(by) => order.mutate(moved(own, field.key, by))} />
                <Button
                  size="compact-xs"
                  aria-label={`Change ${field.label}`}
                  onClick={() => setOpen({ draft: draftOf(field), changing: field.key })}
                >
                  Change
                </Button>
                <Button
                  size="compact-xs"
                  variant="subtle"
                  color="gray"
                  aria-label={`Remove ${field.label}`}
                  onClick={() => remove.mutate(field)}
                >
                  Remove
                </Button>
              </>
            )}
          </span>
        </div>
      ))}
      {removed?.map((field) => (
        <div key={field.key} className={classes.line}>
          <s>{field.label}</s>
          <span className="soft">removed; its values are kept</span>
          <Button size="compact-xs" onClick={() => restore.mutate(field.key)}>
            Bring {field.label} back
          </Button>
        </div>
      ))}
      {open && <FieldDialog {...open} onClose={() => setOpen(undefined)} onDone={() => setOpen(undefined)} />}
    </section>
  );
}
