import { Button, FileButton, Modal, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type ClipboardEvent, useState } from "react";
import { client, renew, type Schemas, sendFile, take, wordsOf } from "../../../api";
import { kindOf } from "../../../core/writing";
import { Trouble } from "../../../ui";
import { messagesQuery } from "../queries";
import classes from "./FromFile.module.css";

const TAKEN = ".html,.htm,.docx,.docm,.md,.markdown,.txt,.eml,.json";

/** Words that were written elsewhere: a file, or what is pasted, becomes a message. */
export function FromFile({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  const read = useMutation({
    mutationFn: (file: File) => sendFile<Schemas["FileWords"]>("/api/messages/from-file", file),
  });
  function close() {
    read.reset();
    onClose();
  }
  function paste(event: ClipboardEvent) {
    const html = event.clipboardData.getData("text/html");
    const text = event.clipboardData.getData("text/plain");
    if (!html && !text) return;
    event.preventDefault();
    read.mutate(
      html ? new File([`<!doctype html>${html}`], "Pasted words.html") : new File([text], "Pasted words.txt"),
    );
  }
  return (
    <Modal
      opened={opened}
      onClose={close}
      size={600}
      closeButtonProps={{ "aria-label": "Close" }}
      title={<b>Words from a file</b>}
    >
      {read.error && <Trouble>{wordsOf(read.error)}</Trouble>}
      {read.data ? (
        <WordsOfFile key={read.submittedAt} found={read.data} onOther={() => read.reset()} />
      ) : (
        <div className={classes.begin}>
          <p>
            From a Word file (.docx), HTML, Markdown, plain text, a mail (.eml), or a message that was saved
            as a file here (.json). Scripts, forms and outer styles stay behind; you see what was left out
            before anything is saved.
          </p>
          <FileButton accept={TAKEN} onChange={(file) => file && read.mutate(file)}>
            {(props) => (
              <Button {...props} variant="filled" loading={read.isPending}>
                Choose a file
              </Button>
            )}
          </FileButton>
          <Textarea
            label="Or paste the words here"
            placeholder="Ctrl V"
            minRows={3}
            autosize
            value=""
            onChange={() => {}}
            onPaste={paste}
          />
        </div>
      )}
    </Modal>
  );
}

/** What was read, what was left out, and the name that it gets. */
function WordsOfFile({ found, onOther }: { found: Schemas["FileWords"]; onOther: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState(found.name);
  const { content } = found;
  const make = useMutation({
    mutationFn: () => take(client.POST("/api/messages", { body: { name, content, revision: null } })),
    onSuccess: (made) => {
      void renew(queries, { queryKey: messagesQuery.queryKey, exact: true });
      void navigate({ to: "/messages/$id", params: { id: String(made.id) } });
    },
  });
  const counts = new Map<string, number>();
  for (const block of content.blocks) {
    const words = kindOf(block)?.words ?? block.kind;
    counts.set(words, (counts.get(words) ?? 0) + 1);
  }
  return (
    <form
      className={classes.begin}
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <p>
        Read:{" "}
        {[...counts]
          .map(([words, count]) => (count === 1 ? words.toLowerCase() : `${words.toLowerCase()} × ${count}`))
          .join(", ")}
        .
      </p>
      {found.left_out.length > 0 && <Trouble tone="held">Left out: {found.left_out.join("; ")}.</Trouble>}
      {found.places.length > 0 && (
        <Trouble tone="held">
          These look like places for data, and no field is called so: {found.places.join(", ")}. Put a field
          there with <kbd>@</kbd>.
        </Trouble>
      )}
      {make.error && <Trouble>{wordsOf(make.error)}</Trouble>}
      <TextInput
        label="Name of the message"
        value={name}
        maxLength={200}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <div className={classes.acts}>
        <Button type="submit" variant="filled" loading={make.isPending} disabled={!name.trim()}>
          Make a message of it
        </Button>
        <Button onClick={onOther}>Choose another</Button>
      </div>
    </form>
  );
}
