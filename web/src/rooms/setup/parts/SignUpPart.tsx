import { Button, Checkbox, Code, CopyButton, Modal, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, wordsOf } from "../../../api";
import { count, percent } from "../../../core/words";
import { Empty, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import dialog from "./FieldDialog.module.css";

type Form = Schemas["FormView"];

const LANGUAGES = [
  { value: "en", label: "English" },
  { value: "de", label: "German" },
  { value: "fr", label: "French" },
  { value: "pl", label: "Polish" },
];
const ASKABLE = new Set(["text", "number", "date", "choice", "yes_no"]);
const NEVER = new Set(["address", "contact_no", "language"]);

const formsQuery = queryOptions({
  queryKey: ["sign-up-forms"],
  queryFn: () => take(client.GET("/api/sign-up-forms")),
});

/** Forms by which people sign up, here and on any web site. */
export function SignUpPart({ vocabulary }: { vocabulary: Schemas["Vocabulary"] }) {
  const queries = useQueryClient();
  const { data: forms, error } = useQuery(formsQuery);
  const [open, setOpen] = useState<Form | "new">();
  const [placing, setPlacing] = useState<Form>();
  return (
    <section aria-label="Sign-up">
      <PageHead title="Sign-up" about="who signs up is asked by mail, and is a contact once they confirm it">
        <Button onClick={() => setOpen("new")} disabled={vocabulary.senders.length === 0}>
          New form
        </Button>
      </PageHead>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {forms?.length === 0 && (
        <Empty title="There is no form yet">
          Make one for a topic. It has a page of its own, and can stand on any web site.
        </Empty>
      )}
      {forms?.map((form) => (
        <div key={form.id} className={classes.line}>
          <b>{form.name}</b>
          <span className="soft">
            {form.closed
              ? "Closed: it takes nobody in. "
              : `${form.topics.map((id) => vocabulary.topics.find((one) => one.id === id)?.name).join(", ")}.`}
            {` Seen ${count(form.seen)}, sent in ${count(form.sent)}, confirmed ${count(form.confirmed)}`}
            {form.sent > 0 && ` (${percent(form.confirmed, form.sent)})`}.
          </span>
          <span className={classes.acts}>
            <Button
              size="compact-xs"
              aria-label={`Page and HTML of ${form.name}`}
              onClick={() => setPlacing(form)}
            >
              Page and HTML
            </Button>
            <Button size="compact-xs" aria-label={`Change ${form.name}`} onClick={() => setOpen(form)}>
              Change
            </Button>
          </span>
        </div>
      ))}
      {open && (
        <FormDialog
          form={open === "new" ? undefined : open}
          vocabulary={vocabulary}
          onClose={() => setOpen(undefined)}
          onDone={() => {
            setOpen(undefined);
            return renew(queries, "sign-up-forms");
          }}
        />
      )}
      {placing && <Placing form={placing} onClose={() => setPlacing(undefined)} />}
    </section>
  );
}

/** Where a form stands: its own page, and the same for a web site. */
function Placing({ form, onClose }: { form: Form; onClose: () => void }) {
  return (
    <Modal opened onClose={onClose} title={form.name} size={680}>
      <p>
        Its own page, to be linked:{" "}
        <a href={form.url} target="_blank" rel="noreferrer">
          {form.url}
        </a>
      </p>
      <p>The same for any web site: plain HTML, no script. It looks as that site’s forms do.</p>
      <Code block style={{ maxHeight: 260, overflow: "auto" }} tabIndex={0}>
        {form.snippet}
      </Code>
      <CopyButton value={form.snippet}>
        {({ copied, copy }) => (
          <Button mt={10} onClick={copy}>
            {copied ? "Copied" : "Copy the HTML"}
          </Button>
        )}
      </CopyButton>
    </Modal>
  );
}

interface FormDialogProps {
  form: Form | undefined;
  vocabulary: Schemas["Vocabulary"];
  onClose: () => void;
  onDone: () => void;
}

function FormDialog({ form, vocabulary, onClose, onDone }: FormDialogProps) {
  const [name, setName] = useState(form?.name ?? "");
  const [title, setTitle] = useState(form?.title ?? "");
  const [intro, setIntro] = useState(form?.intro ?? "");
  const [wording, setWording] = useState(form?.wording ?? "");
  const [topics, setTopics] = useState(form?.topics ?? []);
  const [asks, setAsks] = useState(form?.asks ?? ["first_name", "last_name"]);
  const [language, setLanguage] = useState(form?.language ?? "en");
  const [sender, setSender] = useState(form?.sender_id ?? vocabulary.senders[0]?.id ?? 0);
  const [closed, setClosed] = useState(form?.closed ?? false);
  const fields = vocabulary.fields.filter((one) => ASKABLE.has(one.type) && !NEVER.has(one.key));
  const save = useMutation({
    mutationFn: () => {
      const body = { name, title, intro, wording, topics, asks, language, sender_id: sender, closed };
      const kept = { ...body, revision: form?.revision ?? null };
      return form
        ? take(
            client.PUT("/api/sign-up-forms/{form_id}", {
              params: { path: { form_id: form.id } },
              body: kept,
            }),
          )
        : take(client.POST("/api/sign-up-forms", { body: kept }));
    },
    onSuccess: onDone,
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <Modal opened onClose={onClose} title={form ? `Change ${form.name}` : "New form"} size={560}>
      <form className={dialog.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="Name"
          description="Where it stands, such as “Web site”; it is the source of who signs up"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextInput
          label="Title of its page"
          value={title}
          onChange={(event) => setTitle(event.currentTarget.value)}
        />
        <Textarea
          label="What it says"
          autosize
          minRows={2}
          value={intro}
          onChange={(event) => setIntro(event.currentTarget.value)}
        />
        <Textarea
          label="What people agree to"
          description="In the words that they read; kept with each opt-in as its evidence"
          autosize
          minRows={2}
          value={wording}
          onChange={(event) => setWording(event.currentTarget.value)}
        />
        <Checkbox.Group
          label="For which topics"
          value={topics.map(String)}
          onChange={(picked) => setTopics(picked.map(Number))}
        >
          {vocabulary.topics.map((one) => (
            <Checkbox key={one.id} mt={6} value={String(one.id)} label={one.name} />
          ))}
        </Checkbox.Group>
        <Checkbox.Group label="It asks for the address, and for" value={asks} onChange={setAsks}>
          {fields.map((one) => (
            <Checkbox key={one.key} mt={6} value={one.key} label={one.label} />
          ))}
        </Checkbox.Group>
        <NativeSelect
          label="Language of the page and of its mail"
          value={language}
          data={LANGUAGES}
          onChange={(event) => setLanguage(event.currentTarget.value)}
        />
        <NativeSelect
          label="Its mail comes from"
          value={String(sender)}
          data={vocabulary.senders.map((one) => ({
            value: String(one.id),
            label: `${one.name} <${one.address}>`,
          }))}
          onChange={(event) => setSender(Number(event.currentTarget.value))}
        />
        {form && (
          <Checkbox
            label="Closed: it takes nobody in any more"
            checked={closed}
            onChange={(event) => setClosed(event.currentTarget.checked)}
          />
        )}
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            type="submit"
            variant="filled"
            disabled={!name.trim() || !title.trim() || !wording.trim() || topics.length === 0}
            loading={save.isPending}
          >
            Save the form
          </Button>
        </div>
      </form>
    </Modal>
  );
}
