import { Menu } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { wordsOf } from "../../../api";
import type { Block } from "../../../core/content";
import { someId } from "../../../core/message";
import { sharedBlock } from "../../../core/sharedBlocks";
import { freshBlock, KINDS } from "../../../core/writing";
import { announce } from "../../../ui";
import { messageQuery, messagesQuery } from "../queries";
import classes from "./AddItems.module.css";
import { useWriting } from "./context";

const ADDED = (Object.keys(KINDS) as Block["kind"][]).filter((kind) => KINDS[kind].about !== "");

/** The kinds of blocks that can be added, each with what it is for, and the shared blocks. */
export function AddItems({ onAdd }: { onAdd: (block: Block) => void }) {
  const { vocabulary, language, shared } = useWriting();
  const queries = useQueryClient();
  const { data: messages } = useQuery(messagesQuery);
  const offered = shared ? [] : (messages ?? []).filter((one) => one.is_shared && one.put_away_at === null);
  const add = (id: number) =>
    queries
      .fetchQuery(messageQuery(id))
      .then((found) => onAdd(sharedBlock(someId(), found, language)))
      .catch((fault: unknown) => announce(wordsOf(fault), { bad: true }));
  return (
    <div className={classes.items}>
      {ADDED.flatMap((kind) => {
        const block = freshBlock(kind, someId(), vocabulary.fields);
        return block ? (
          <Menu.Item key={kind} onClick={() => onAdd(block)}>
            <b>{KINDS[kind].words}</b>
            <div className="faint">{KINDS[kind].about}</div>
          </Menu.Item>
        ) : (
          []
        );
      })}
      {offered.length > 0 && <Menu.Label>Shared blocks</Menu.Label>}
      {offered.map((one) => (
        <Menu.Item key={one.id} onClick={() => void add(one.id)}>
          <b>{one.name}</b>
        </Menu.Item>
      ))}
    </div>
  );
}
