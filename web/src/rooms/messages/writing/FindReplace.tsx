import { Button, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import type { Content } from "../../../core/content";
import { foundIn, replaced } from "../../../core/replacing";
import classes from "./FindReplace.module.css";

interface FindReplaceProps {
  content: Content;
  onContent: (content: Content) => void;
  onClose: () => void;
}

/** Replace words wherever they stand in the message; inlays, addresses and conditions are left alone. */
export function FindReplace({ content, onContent, onClose }: FindReplaceProps) {
  const [search, setSearch] = useState("");
  const [by, setBy] = useState("");
  const found = foundIn(content, search);
  function put(event: FormEvent) {
    event.preventDefault();
    if (found > 0) onContent(replaced(content, search, by));
  }
  return (
    <form
      className={classes.bar}
      aria-label="Find and replace"
      onSubmit={put}
      onKeyDown={(event) => event.key === "Escape" && onClose()}
    >
      <TextInput
        size="xs"
        aria-label="Find"
        placeholder="Find"
        autoFocus
        value={search}
        onChange={(event) => setSearch(event.currentTarget.value)}
      />
      <TextInput
        size="xs"
        aria-label="Replace by"
        placeholder="Replace by"
        value={by}
        onChange={(event) => setBy(event.currentTarget.value)}
      />
      <Button type="submit" disabled={found === 0}>
        Replace all
      </Button>
      <span className="soft" role="status">
        {search && (found === 1 ? "found once" : found === 0 ? "not found" : `found ${found} times`)}
      </span>
      <Button variant="subtle" onClick={onClose}>
        Close
      </Button>
    </form>
  );
}
