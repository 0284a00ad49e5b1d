import { Button, Checkbox, Code, CopyButton, Modal, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, wordsOf } from "../../../api";
import { count, percent } from "../../../core/words";
import { Empty, IdSelect, PageHead, Trouble } from "../../../ui";
import { messagesQuery } from "../../messages";
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
            {form.sent > 0 && ` (${percent(form.confirmed, form.sent)})`}
            {form.welcome_message_id !== null && `, welcomed ${count(form.welcomed)}`}.
            {form.trouble && <Trouble tone="held">{form.trouble}</Trouble>}
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
  const [language, setLanguage] = useState(form.language);
  const place = form.places.find((one) => one.language === language) ?? form.places[0];
  if (!place) return null;
  return (
    <Modal opened onClose={onClose} title={form.name} size={680}>
      {form.places.length > 1 && (
        <NativeSelect
          label="In which language"
          value={language}
          data={LANGUAGES.filter((one) => form.places.some((place) => place.language === one.value))}
          onChange={(event) => setLanguage(event.currentTarget.value)}
        />
      )}
      <p>
        Its own page, to be linked:{" "}
        <a href={place.url} target="_blank" rel="noreferrer">
          {place.url}
        </a>
      </p>
      <p>The same for any web site: plain HTML, no script. It looks as that site’s forms do.</p>
      <Code block style={{ maxHeight: 260, overflow: "auto" }} tabIndex={0}>
        {place.snippet}
      </Code>
      <CopyButton value={place.snippet}>
        {({ copied, copy }) => (
          <Button mt={10} onClick={copy}>
            {copied ? "Copied" : "Copy the HTML"}
          </Button>
        )}
      </CopyButton>
    </Modal>
  );
}

interface WordsProps {
  words: Schemas["FormWords"];
  /** The language, where there are several. */
  of?: string;
  onChange: (words: Schemas["FormWords"]) => void;
}

/** What a form says in one language. */
function Words({ words, of = "", onChange }: WordsProps) {
  const label = (text: string) => (of ? `${text} (${of})` : text);
  return (
    <>
      <TextInput
        label={label("Title of its page")}
        value={words.title}
        onChange={(event) => onChange({ ...words, title: event.currentTarget.value })}
      />
      <Textarea
        label={label("What it says")}
        autosize
        minRows={2}
        value={words.intro}
        onChange={(event) => onChange({ ...words, intro: event.currentTarget.value })}
      />
      <Textarea
        label={label("What people agree to")}
        description={of ? undefined : "In the words that they read; kept with each opt-in as its evidence"}
        autosize
        minRows={2}
        value={words.wording}
        onChange={(event) => onChange({ ...words, wording: event.currentTarget.value })}
      />
    </>
  );
}

interface OtherLanguagesProps {
  main: string;
  others: Schemas["FormWords"][];
  onChange: (others: Schemas["FormWords"][]) => void;
}

/** The same form in other languages: whose browser asks for one gets it. */
function OtherLanguages({ main, others, onChange }: OtherLanguagesProps) {
  const named = (code: string) => LANGUAGES.find((one) => one.value === code)?.label ?? code;
  const free = LANGUAGES.filter(
    (one) => one.value !== main && others.every((other) => other.language !== one.value),
  );
  return (
    <>
      {others.map((one) => (
        <fieldset key={one.language} className={dialog.language}>
          <legend>{named(one.language)}</legend>
          <Words
            words={one}
            of={named(one.language)}
            onChange={(next) =>
              onChange(others.map((other) => (other.language === one.language ? next : other)))
            }
          />
          <Button
            size="compact-xs"
            onClick={() => onChange(others.filter((other) => other.language !== one.language))}
          >
            Without {named(one.language)}
          </Button>
        </fieldset>
      ))}
      {free.length > 0 && (
        <NativeSelect
          label="In another language too"
          value=""
          data={[{ value: "", label: "add a language" }, ...free]}
          onChange={(event) =>
            onChange([...others, { language: event.currentTarget.value, title: "", intro: "", wording: "" }])
          }
        />
      )}
    </>
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
  const [others, setOthers] = useState<Schemas["FormWords"][]>(form?.others ?? []);
  const [welcome, setWelcome] = useState(form?.welcome_message_id ?? null);
  const { data: messages } = useQuery(messagesQuery);
  const fields = vocabulary.fields.filter((one) => ASKABLE.has(one.type) && !NEVER.has(one.key));
  const save = useMutation({
    mutationFn: () => {
      const body = { name, title, intro, wording, topics, asks, language, sender_id: sender, closed };
      const kept = { ...body, others, welcome_message_id: welcome, revision: form?.revision ?? null };
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
        <NativeSelect
          label="Language of the page and of its mail"
          value={language}
          data={LANGUAGES.filter((one) => others.every((other) => other.language !== one.value))}
          onChange={(event) => setLanguage(event.currentTarget.value)}
        />
        <Words
          words={{ language, title, intro, wording }}
          onChange={(next) => {
            setTitle(next.title);
            setIntro(next.intro);
            setWording(next.wording);
          }}
        />
        <OtherLanguages main={language} others={others} onChange={setOthers} />
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
        <IdSelect
          label="Who has confirmed is welcomed with"
          empty="no message"
          value={welcome}
          options={(messages ?? [])
            .filter((one) => one.id === welcome || (!one.put_away_at && !one.is_starter && !one.is_shared))
            .map((one) => ({ id: one.id, words: one.name }))}
          onChange={setWelcome}
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
