import { useQuery } from "@tanstack/react-query";
import { May, useWords, wordsOf } from "../../api";
import { ButtonLink, Empty, LineLink, Page, PageHead, Trouble } from "../../ui";
import classes from "./MessagesPage.module.css";
import { messagesQuery } from "./queries";

/** All messages. */
export function MessagesPage() {
  const { data: messages, error } = useQuery(messagesQuery);
  const words = useWords();
  return (
    <Page>
      <PageHead title="Messages" about="words with places for each person's own data">
        <May be="write">
          <ButtonLink to="/messages/$id" params={{ id: "new" }} variant="filled">
            New message
          </ButtonLink>
        </May>
      </PageHead>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {messages?.length === 0 && (
        <Empty title="There is no message yet">Write one; a campaign then takes it along.</Empty>
      )}
      {messages?.map((message) => (
        <LineLink
          key={message.id}
          to="/messages/$id"
          params={{ id: String(message.id) }}
          className={classes.line}
        >
          <b>{message.name}</b>
          <span className="soft">{message.subject || "no subject yet"}</span>
          <span className="soft">
            version {message.number} · {words.moment(message.updated_at)}
          </span>
        </LineLink>
      ))}
    </Page>
  );
}
