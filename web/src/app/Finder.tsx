import { CloseButton, Combobox, Modal, TextInput, useCombobox } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useEffect, useMemo, useState } from "react";
import { client, type Permission, take, useMay } from "../api";
import { campaignsQuery } from "../rooms/campaigns";

/** Something that can be gone to, or done. */
interface Place {
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
  const combobox = useCombobox({ opened: true });
  const [text, setText] = useState("");
  const [asked] = useDebouncedValue(text.trim(), 120);
  const { data: campaigns } = useQuery(campaignsQuery);
  const { data: contacts } = useQuery({
    queryKey: ["contacts", "find", asked],
    queryFn: () => take(client.GET("/api/contacts", { params: { query: { search: asked, limit: 6 } } })),
    enabled: asked.length > 1,
  });
  const found = useMemo<Place[]>(() => {
    const wanted = text.trim().toLowerCase();
    const actions: Place[] = [
      {
        key: "import",
        needs: "contacts",
        words: "Import people",
        about: "from a file or pasted cells",
        also: "upload add csv excel list contacts bring in",
        go: () => navigate({ to: "/contacts/import" }),
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
      {
        key: "responses",
        words: "Responses",
        about: "replies, bounces and who left",
        also: "answers reply inbox unsubscribed bounced complaints away",
        go: () => navigate({ to: "/responses" }),
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
    const runs: Place[] = (campaigns ?? []).map((one) => ({
      key: `campaign ${one.id}`,
      words: one.name,
      about: "campaign",
      go: () => navigate({ to: "/campaigns/$id", params: { id: String(one.id) }, search: {} }),
    }));
    const people: Place[] = (wanted.length > 1 ? (contacts?.rows ?? []) : []).map((one) => ({
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
  // Enter takes the first, also when people come a moment after what one typed.
  const first = found[0]?.key;
  const { selectFirstOption } = combobox;
  useEffect(() => {
    if (first) selectFirstOption();
  }, [first, selectFirstOption]);
  return (
    <Combobox
      store={combobox}
      onOptionSubmit={(key) => {
        onClose();
        found.find((one) => one.key === key)?.go();
      }}
    >
      <Combobox.EventsTarget>
        <TextInput
          data-autofocus
          aria-label="Find people and campaigns, or go somewhere"
          placeholder="A name, an address, a campaign, or what to do"
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
          rightSection={<CloseButton aria-label="Close" size="sm" onClick={onClose} />}
        />
      </Combobox.EventsTarget>
      <Combobox.Options aria-label="Found" mt="xs">
        {found.map((one) => (
          <Combobox.Option key={one.key} value={one.key}>
            <b>{one.words}</b> <span className="soft">{one.about}</span>
          </Combobox.Option>
        ))}
        {found.length === 0 && <Combobox.Empty>Nothing found.</Combobox.Empty>}
      </Combobox.Options>
    </Combobox>
  );
}
