import { Button, Modal, SegmentedControl, Stack } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { wordsOf } from "../../../api";
import { Diamond, Letter, Trouble } from "../../../ui";
import { sentQuery } from "../queries";
import { useRehearsalSeen } from "../seen";
import classes from "./SentMessage.module.css";

/** The message exactly as it was sent: letter, text, headers and source. */
export function SentMessage({ delivery }: { delivery: number }) {
  const [opened, { open, close }] = useDisclosure(false);
  return (
    <>
      <Button onClick={open}>As it was sent</Button>
      <Modal opened={opened} onClose={close} title="The message as it was sent" size={720}>
        {opened && <Shown delivery={delivery} />}
      </Modal>
    </>
  );
}

function Shown({ delivery }: { delivery: number }) {
  const { data: message, error } = useQuery(sentQuery(delivery, useRehearsalSeen()));
  const [view, setView] = useState("letter");
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!message) return null;
  return (
    <Stack gap={10}>
      {message.sent ? (
        message.identical ? (
          <p className={classes.same}>
            <Diamond state="done" size={14} /> Byte for byte what was handed to the relay.
          </p>
        ) : (
          <Trouble>These bytes differ from what was handed to the relay.</Trouble>
        )
      ) : (
        <Trouble tone="held">It has not gone out yet; this is what they would get now.</Trouble>
      )}
      <dl className={classes.headers}>
        {message.headers.slice(0, 8).map(({ name, value }) => (
          <div key={name}>
            <dt>{name}</dt>
            <dd>
              <bdi>{value}</bdi>
            </dd>
          </div>
        ))}
      </dl>
      <SegmentedControl
        aria-label="How to look at it"
        value={view}
        onChange={setView}
        data={[
          { value: "letter", label: "Letter" },
          { value: "text", label: "Text" },
          { value: "source", label: "Source" },
        ]}
      />
      {view === "letter" && <Letter html={message.html} title="The message" />}
      {view === "text" && <pre className={classes.source}>{message.text}</pre>}
      {view === "source" && <pre className={classes.source}>{message.source}</pre>}
      <p className={`mono faint ${classes.digest}`}>SHA-256 {message.digest}</p>
    </Stack>
  );
}
