import { Button, SegmentedControl, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { May, wordsOf } from "../../api";
import { ButtonLink, Empty, Page, PageHead, Trouble } from "../../ui";
import classes from "./MessagesPage.module.css";
import { FromFile } from "./parts/FromFile";
import { MessageCard } from "./parts/MessageCard";
import { messagesQuery } from "./queries";

type Shelf = "messages" | "starters" | "shared" | "away";

/** All messages as small letters: those in use, those that new ones begin as, the blocks that several share, and those that were put away. */
export function MessagesPage() {
  const { data: messages, error } = useQuery(messagesQuery);
  const [shelf, setShelf] = useState<Shelf>("messages");
  const [search, setSearch] = useState("");
  const [fromFile, setFromFile] = useState(false);
  const wanted = search.trim().toLowerCase();
  const on = (which: Shelf) =>
    (messages ?? []).filter((one) =>
      which === "away"
        ? one.put_away_at !== null
        : one.put_away_at === null &&
          one.is_starter === (which === "starters") &&
          one.is_shared === (which === "shared"),
    );
  const shown = on(shelf).filter((one) =>
    `${one.name} ${one.subject} ${[...one.campaigns, ...one.used_in].join(" ")}`
      .toLowerCase()
      .includes(wanted),
  );
  return (
    <Page>
      <PageHead title="Messages" about="words with places for each person's own data">
        <May be="write">
          <Button onClick={() => setFromFile(true)}>From a file…</Button>
          {on("starters").length > 0 && shelf !== "starters" && (
            <Button onClick={() => setShelf("starters")}>Begin with a starter</Button>
          )}
          <ButtonLink to="/messages/$id" params={{ id: "new" }} variant="filled">
            New message
          </ButtonLink>
        </May>
      </PageHead>
      <FromFile opened={fromFile} onClose={() => setFromFile(false)} />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {messages && messages.length > 0 && (
        <div className={classes.bar}>
          <SegmentedControl
            aria-label="Which messages"
            value={shelf}
            onChange={(next) => setShelf(next as Shelf)}
            data={[
              { value: "messages", label: `Messages ${on("messages").length}` },
              { value: "starters", label: `Starters ${on("starters").length}` },
              { value: "shared", label: `Shared blocks ${on("shared").length}` },
              { value: "away", label: `Put away ${on("away").length}` },
            ]}
          />
          <TextInput
            aria-label="Search messages"
            placeholder="Search by name, subject or use"
            value={search}
            onChange={(event) => setSearch(event.currentTarget.value)}
          />
        </div>
      )}
      {messages && shown.length === 0 && (
        <Empty title={wanted ? "No message is called so" : EMPTY_SHELF[shelf].title}>
          {wanted ? "Search for other words, or on another shelf." : EMPTY_SHELF[shelf].what}
        </Empty>
      )}
      <ul className={classes.grid} aria-label="Messages">
        {shown.map((message) => (
          <MessageCard key={message.id} message={message} />
        ))}
      </ul>
    </Page>
  );
}

const EMPTY_SHELF: Record<Shelf, { title: string; what: string }> = {
  messages: { title: "There is no message yet", what: "Write one; a campaign then takes it along." },
  starters: {
    title: "There is no starter yet",
    what: "Open a message's menu and let new ones begin as it.",
  },
  shared: {
    title: "There is no shared block yet",
    what: "Point at blocks in a message, and share them from the menu at their side.",
  },
  away: { title: "Nothing is put away", what: "What you put away stands here, and comes back at a click." },
};
