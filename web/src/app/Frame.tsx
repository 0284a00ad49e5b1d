import { Loader, Menu, UnstyledButton, useMantineColorScheme } from "@mantine/core";
import { useDisclosure, useHotkeys } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate } from "@tanstack/react-router";
import { Suspense, useMemo } from "react";
import { clearMirrors, client, flushOpen, meQuery, take } from "../api";
import { Mark, useKeys } from "../ui";
import { Finder } from "./Finder";
import classes from "./Frame.module.css";
import { KeysHelp } from "./KeysHelp";
import { Loading } from "./Loading";
import { Pulse } from "./Pulse";

const PLACES = [
  { to: "/", words: "Desk" },
  { to: "/contacts", words: "Contacts" },
  { to: "/audiences", words: "Audiences" },
  { to: "/messages", words: "Messages" },
  { to: "/campaigns", words: "Campaigns" },
  { to: "/responses", words: "Responses" },
  { to: "/set-up", words: "Set-up" },
] as const;

/** The bar on top, and the place below it that belongs to the work. */
export function Frame() {
  const { data: me } = useQuery(meQuery);
  const [finding, finder] = useDisclosure(false);
  const [helping, help] = useDisclosure(false);
  // Ctrl K works while one is writing, too.
  useHotkeys([["mod+K", finder.open]], []);
  const open = help.open;
  useKeys(useMemo(() => ({ "?": open }), [open]));
  if (!me) return null;
  return (
    <div className={classes.frame}>
      <a className={classes.skip} href="#work">
        Skip to the work
      </a>
      <nav className={classes.bar} aria-label="Places">
        <Link to="/" className={classes.mark}>
          <Mark /> uvarovite
        </Link>
        {PLACES.map((place) => (
          <Link
            key={place.to}
            to={place.to}
            className={classes.place}
            activeProps={{ className: `${classes.place} ${classes.here}` }}
            activeOptions={{ exact: place.to === "/", includeSearch: false }}
          >
            {place.words}
          </Link>
        ))}
        <UnstyledButton className={classes.find} onClick={finder.open}>
          <span>Find or do…</span>
          <span className={classes.key}>Ctrl K</span>
        </UnstyledButton>
        <Pulse />
        <UserMenu name={me.name} inbox={me.inbox_url} onKeys={help.open} />
        <Loading />
      </nav>
      <main id="work" className={classes.work}>
        <Suspense fallback={<Loader m="xl" aria-label="Opening the page" />}>
          <Outlet />
        </Suspense>
      </main>
      <Finder opened={finding} onClose={finder.close} />
      <KeysHelp opened={helping} onClose={help.close} />
    </div>
  );
}

function UserMenu({ name, inbox, onKeys }: { name: string; inbox: string | null; onKeys: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const signOut = useMutation({
    mutationFn: async () => {
      await flushOpen();
      await take(client.DELETE("/api/session"));
    },
    onSuccess: async () => {
      clearMirrors();
      await navigate({ to: "/sign-in", search: {} });
      queries.clear();
    },
  });
  const initials = name
    .split(/\s+/)
    .map((word) => word[0])
    .slice(0, 2)
    .join("");
  return (
    <Menu position="bottom-end" width={220}>
      <Menu.Target>
        <UnstyledButton className={classes.who} aria-label={`${initials}, menu of ${name}`}>
          {initials}
        </UnstyledButton>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Label>{name}</Menu.Label>
        <Menu.Item component={Link} to="/set-up/account">
          Your account
        </Menu.Item>
        {inbox && (
          <Menu.Item component="a" href={inbox} target="_blank">
            Rehearsal inbox
          </Menu.Item>
        )}
        <Menu.Item onClick={() => setColorScheme(colorScheme === "dark" ? "light" : "dark")}>
          {colorScheme === "dark" ? "Light" : "Dark"} colours
        </Menu.Item>
        <Menu.Item onClick={onKeys}>Keys</Menu.Item>
        <Menu.Divider />
        <Menu.Item onClick={() => signOut.mutate()}>Sign out</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
