import { Button, NativeSelect, Textarea } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, memo, useEffect, useRef, useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { spokenBlocks } from "../../../core/comments";
import type { Content } from "../../../core/content";
import { tooLong } from "../../../core/words";
import { Trouble } from "../../../ui";
import { commentsQuery } from "../queries";
import classes from "./Comments.module.css";

/** A block that somebody points at, to speak of it. */
export interface PointedBlock {
  id: string;
  language: string;
}

interface CommentsProps {
  messageId: number;
  content: Content;
  /** The language of the words on screen, "" for the main ones. */
  language: string;
  /** The block that was pointed at last: what is written next is of it. */
  pointed?: PointedBlock | undefined;
  /** Show a place in the words; where it cannot be shown, it is only told. */
  onGo?: ((part: string, language: string) => void) | undefined;
}

/** What colleagues say of the words, each at its place, until it is done. */
export const Comments = memo(function Comments({
  messageId,
  content,
  language,
  pointed,
  onGo,
}: CommentsProps) {
  const queries = useQueryClient();
  const { data: comments, error } = useQuery(commentsQuery(messageId));
  const [words, setWords] = useState("");
  const [place, setPlace] = useState<PointedBlock>({ id: "", language });
  const [all, setAll] = useState(false);
  const field = useRef<HTMLTextAreaElement>(null);
  useEffect(() => {
    if (!pointed) return;
    setPlace(pointed);
    field.current?.focus();
  }, [pointed]);
  // What is said of no block is said of the words on screen.
  const inLanguage = place.id ? place.language : language;
  const spoken = spokenBlocks(content, inLanguage);
  const block = spoken.find((one) => one.id === place.id);
  const path = { message_id: messageId };
  const took = (next: Schemas["CommentView"][]) => {
    queries.setQueryData(commentsQuery(messageId).queryKey, next);
    // That some are open stands before the release.
    void renew(queries, "campaigns");
  };
  const add = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/messages/{message_id}/comments", {
          params: { path },
          body: { words, language: inLanguage, block_id: block?.id ?? "", quote: block?.words ?? "" },
        }),
      ),
    onSuccess: (next) => {
      took(next);
      setWords("");
    },
  });
  const close = useMutation({
    mutationFn: ({ id, done }: { id: number; done: boolean }) =>
      take(
        client.PUT("/api/messages/{message_id}/comments/{comment_id}", {
          params: { path: { ...path, comment_id: id } },
          body: { done },
        }),
      ),
    onSuccess: took,
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    if (words.trim() && !add.isPending) add.mutate();
  }
  const closed = comments?.filter((one) => one.done_at).length ?? 0;
  const shown = (comments ?? []).filter((one) => all || !one.done_at);
  const wrong = error ?? add.error ?? close.error;
  return (
    <section className={classes.comments} aria-label="Comments">
      <h2>Comments</h2>
      {wrong && <Trouble>{wordsOf(wrong)}</Trouble>}
      {shown.length > 0 && (
        <ul className={classes.list}>
          {shown.map((one) => (
            <CommentLine
              key={one.id}
              comment={one}
              part={spokenBlocks(content, one.language).find((each) => each.id === one.block_id)?.part}
              onGo={onGo}
              onDone={(done) => close.mutate({ id: one.id, done })}
            />
          ))}
        </ul>
      )}
      {closed > 0 && (
        <Button size="compact-xs" variant="subtle" onClick={() => setAll(!all)}>
          {all ? "Hide what is done" : `Show ${closed} done`}
        </Button>
      )}
      <May be="write">
        <form className={classes.form} onSubmit={submit}>
          <Textarea
            aria-label="A comment on the words"
            placeholder="Say something of the words"
            ref={field}
            autosize
            minRows={1}
            maxRows={6}
            value={words}
            error={tooLong(words, 4_000)}
            onChange={(event) => setWords(event.currentTarget.value)}
          />
          {words.trim() !== "" && (
            <div className={classes.row}>
              <NativeSelect
                size="xs"
                leftSection={<span className="faint">about</span>}
                leftSectionWidth={50}
                aria-label="What it is about"
                value={block ? place.id : ""}
                data={[
                  { value: "", label: "the whole message" },
                  ...spoken.map((one) => ({ value: one.id, label: one.words })),
                ]}
                onChange={(event) => setPlace({ id: event.currentTarget.value, language: inLanguage })}
              />
              <Button type="submit" size="xs" loading={add.isPending}>
                Comment
              </Button>
            </div>
          )}
        </form>
      </May>
    </section>
  );
});

interface CommentLineProps {
  comment: Schemas["CommentView"];
  /** Where the block stands; undefined when it does not any more. */
  part: string | undefined;
  onGo: CommentsProps["onGo"];
  onDone: (done: boolean) => void;
}

function CommentLine({ comment, part, onGo, onDone }: CommentLineProps) {
  const words = useWords();
  return (
    <li data-done={comment.done_at ? true : undefined}>
      {comment.quote && (
        <div className={classes.quote}>
          {onGo && part !== undefined ? (
            <button type="button" onClick={() => onGo(part, comment.language)}>
              {comment.quote}
            </button>
          ) : (
            <span>
              {comment.quote}
              {part === undefined && <span className="faint"> (not in the words any more)</span>}
            </span>
          )}
        </div>
      )}
      <p className={classes.words}>{comment.words}</p>
      <div className={classes.row}>
        <span className="faint">
          {comment.by ?? "somebody"}, {words.moment(comment.at)}
          {comment.done_at && ` · done: ${comment.done_by ?? "somebody"}, ${words.moment(comment.done_at)}`}
        </span>
        <May be="write">
          <Button size="compact-xs" onClick={() => onDone(!comment.done_at)}>
            {comment.done_at ? "Open it again" : "Done"}
          </Button>
        </May>
      </div>
    </li>
  );
}
