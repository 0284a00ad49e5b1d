/** The parts of Set-up, in their order: who sees each, and where it is. */
import type { Permission } from "../../api";

export interface SetupPart {
  key: string;
  words: string;
  /** What it takes to see it. */
  needs: Permission;
}

export const PARTS: { about: string; parts: SetupPart[] }[] = [
  {
    about: "You",
    parts: [
      { key: "account", words: "Your account", needs: "own_account" },
      { key: "tokens", words: "Tokens", needs: "own_account" },
    ],
  },
  {
    about: "Mail",
    parts: [
      { key: "organisation", words: "Organisation", needs: "set_up" },
      { key: "letters", words: "Letters", needs: "set_up" },
      { key: "senders", words: "Senders", needs: "set_up" },
      { key: "signing", words: "Signing", needs: "set_up" },
      { key: "relays", words: "Relays", needs: "set_up" },
    ],
  },
  {
    about: "Contacts",
    parts: [
      { key: "topics", words: "Topics", needs: "set_up" },
      { key: "sign-up", words: "Sign-up", needs: "set_up" },
      { key: "limits", words: "Frequency limits", needs: "set_up" },
      { key: "readers", words: "Readers", needs: "set_up" },
      { key: "fields", words: "Fields", needs: "set_up" },
    ],
  },
  {
    about: "People here",
    parts: [
      { key: "users", words: "Users", needs: "accounts" },
      { key: "log", words: "Audit log", needs: "audit" },
    ],
  },
];
