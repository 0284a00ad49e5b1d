import { CloseButton, Modal, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type KeyboardEvent, useMemo, useState } from "react";
import { client, type Permission, take, useMay } from "../api";
import { campaignsQuery } from "../rooms/campaigns";
import classes from "./Finder.module.css";

interface Found {
  key: string;
  words: string;
  about: string;
  /** What else somebody may call it. */
  also?: string;
  /** What it takes to do it. */
  needs?: Permission;
  go: () => void;
}

/** One box for people, campaigns and places. */
export function Finder({ opened, onClose }: { opened: boolean; onClose: () => void }) {
  return (
    <Modal
      opened={opened}
      onClose={onClose}
      withCloseButton={false}
      padding="sm"
      yOffset="10vh"
      centered={false}
    >
      <Search onClose={onClose} />
    </Modal>
  );
}

function Search({ onClose }: { onClose: () => void }) {
  const navigate = useNavigate();
  const may = useMay();
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [asked] = useDebouncedValue(text.trim(), 120);
  const { data: campaigns } = useQuery(campaignsQuery);
  const { data: contacts } = useQuery({
    queryKey: ["contacts", "find", asked],
    queryFn: () => take(client.GET("/api/contacts", { params: { query: { search: asked, limit: 6 } } })),
    enabled: asked.length > 1,
  });
  const found = useMemo<Found[]>(() => {
    const wanted = text.trim().toLowerCase();
    const actions: Found[] = [
      {
        key: "bring-in",
        needs: "contacts",
        words: "Import people",
        about: "from a file or pasted cells",
        also: "upload add csv excel list contacts bring in",
        go: () => navigate({ to: "/contacts/bring-in" }),
      },
      {
        key: "audience",
        needs: "write",
        words: "New audience",
        about: "",
        also: "segment group list filter",
        go: () => navigate({ to: "/audiences/$id", params: { id: "new" } }),
      },
      {
        key: "message",
        needs: "write",
        words: "New message",
        about: "",
        also: "template mail newsletter write",
        go: () => navigate({ to: "/messages/$id", params: { id: "new" } }),
      },
      {
        key: "suppression",
        words: "Suppression list",
        about: "addresses and domains that are never written to",
        also: "suppress unsubscribe block blacklist opt-out never write stop",
        go: () => navigate({ to: "/contacts/suppression" }),
      },
      {
        key: "duplicates",
        words: "Duplicates",
        about: "records to be merged",
        also: "merge clean up double twice same",
        go: () => navigate({ to: "/contacts/duplicates" }),
      },
      {
        key: "export",
        needs: "export",
        words: "Export",
        about: "tick people in the table, or all that match, then Export",
        also: "download csv excel save file",
        go: () => navigate({ to: "/contacts" }),
      },
      { key: "campaigns", words: "Campaigns", about: "", go: () => navigate({ to: "/campaigns" }) },
      {
        key: "set-up",
        words: "Set-up",
        about: "relays, fields, topics",
        also: "settings smtp server sender frequency limits columns subscriptions",
        go: () => navigate({ to: "/set-up" }),
      },
    ];
    const runs: Found[] = (campaigns ?? []).map((one) => ({
      key: `campaign ${one.id}`,
      words: one.name,
      about: "campaign",
      go: () => navigate({ to: "/campaigns/$id", params: { id: String(one.id) }, search: {} }),
    }));
    const people: Found[] = (wanted.length > 1 ? (contacts?.rows ?? []) : []).map((one) => ({
      key: `contact ${one.id}`,
      words: [one.first_name, one.last_name].filter(Boolean).join(" ") || (one.address ?? ""),
      about: one.address ?? "no address",
      go: () => navigate({ to: "/contacts", search: { search: asked, person: one.id } }),
    }));
    const named = [...runs, ...actions].filter(
      (one) =>
        (!one.needs || may(one.needs)) &&
        (one.words.toLowerCase().includes(wanted) || (wanted.length > 2 && one.also?.includes(wanted))),
    );
    return [...named.slice(0, 6), ...people];
  }, [text, asked, campaigns, contacts, navigate, may]);
  function press(event: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    if (step) {
      event.preventDefault();
      setAt((old) => (old + step + found.length) % Math.max(1, found.length));
    }
    if (event.key === "Enter") choose(found[at]);
  }
  function choose(one: Found | undefined) {
    if (!one) return;
    onClose();
    one.go();
  }
  return (
    <>
      <TextInput
        data-autofocus
        aria-label="Find people and campaigns, or go somewhere"
        placeholder="A name, an address, a campaign, or what to do"
        value={text}
        onChange={(event) => {
          setText(event.currentTarget.value);
          setAt(0);
        }}
        onKeyDown={press}
        rightSection={<CloseButton aria-label="Close" size="sm" onClick={onClose} />}
      />
      <div className={classes.found} role="listbox" aria-label="Found">
        {found.map((one, index) => (
          <button
            type="button"
            role="option"
            aria-selected={index === at}
            key={one.key}
            className={classes.line}
            onMouseEnter={() => setAt(index)}
            onClick={() => choose(one)}
          >
            <b>{one.words}</b> <span className="soft">{one.about}</span>
          </button>
        ))}
        {found.length === 0 && <p className="soft">Nothing found.</p>}
      </div>
    </>
  );
}
