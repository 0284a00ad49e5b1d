/** The places and their addresses. What one would bookmark stands in the address. */
import { createRootRoute, createRoute, createRouter, Navigate, Outlet } from "@tanstack/react-router";
import { useCallback } from "react";
import { useMay } from "../api";
import { AudiencePage, AudiencesPage } from "../rooms/audiences";
import { CampaignPage, CampaignsPage } from "../rooms/campaigns";
import {
  ContactsPage,
  type ContactsPlace,
  DuplicatesPage,
  ImportPage,
  RecordPage,
  SourcePage,
  SuppressionPage,
} from "../rooms/contacts";
import { DeskPage } from "../rooms/desk";
import { MessagePage, MessagesPage } from "../rooms/messages";
import { ResponsesPage, type ResponsesPlace } from "../rooms/responses";
import { type AuditPlace, SetupPage } from "../rooms/setup";
import { EnterPage } from "./EnterPage";
import { Frame } from "./Frame";
import { JoinPage } from "./JoinPage";
import { NotFoundPage } from "./NotFoundPage";
import { SignInPage } from "./SignInPage";

const text = (value: unknown) => (typeof value === "string" && value ? value : undefined);
const whole = (value: unknown) =>
  Number.isInteger(Number(value)) && Number(value) > 0 ? Number(value) : undefined;

/** A thing's number, or a new thing. */
const isId = (id: string) => id === "new" || whole(id) !== undefined;

const root = createRootRoute({ component: Outlet });

const signIn = createRoute({
  getParentRoute: () => root,
  path: "/sign-in",
  validateSearch: (raw): { back?: string } => ({ back: text(raw.back) }),
  component: SignInPage,
});
const enter = createRoute({
  getParentRoute: () => root,
  path: "/enter",
  validateSearch: (raw): { token?: string } => ({ token: text(raw.token) }),
  component: EnterPage,
});
const join = createRoute({ getParentRoute: () => root, path: "/join", component: JoinPage });
const frame = createRoute({ getParentRoute: () => root, id: "frame", component: Frame });

const desk = createRoute({ getParentRoute: () => frame, path: "/", component: DeskPage });
const contacts = createRoute({
  getParentRoute: () => frame,
  path: "/contacts",
  validateSearch: (raw): ContactsPlace => ({
    search: text(raw.search),
    criteria: text(raw.criteria),
    sort: text(raw.sort),
    view: whole(raw.view),
    person: whole(raw.person),
  }),
  component: () => {
    const navigate = contacts.useNavigate();
    const place = contacts.useSearch();
    const go = useCallback(
      (change: ContactsPlace) => {
        navigate({ search: (old) => ({ ...old, ...change }), replace: true });
      },
      [navigate],
    );
    return <ContactsPage place={place} onPlace={go} />;
  },
});
const record = createRoute({
  getParentRoute: () => frame,
  path: "/contacts/$id/record",
  validateSearch: (raw): { asOf?: string | undefined } => ({ asOf: text(raw.asOf) }),
  component: () => {
    const navigate = record.useNavigate();
    return (
      <RecordPage
        id={Number(record.useParams().id)}
        asOf={record.useSearch().asOf}
        onAsOf={(asOf) => navigate({ search: { asOf } })}
      />
    );
  },
});
const suppression = createRoute({
  getParentRoute: () => frame,
  path: "/contacts/suppression",
  component: SuppressionPage,
});
const duplicates = createRoute({
  getParentRoute: () => frame,
  path: "/contacts/duplicates",
  component: DuplicatesPage,
});
const importing = createRoute({
  getParentRoute: () => frame,
  path: "/contacts/import",
  validateSearch: (raw): { import?: number | undefined } => ({ import: whole(raw.import) }),
  component: () => {
    const navigate = importing.useNavigate();
    const go = useCallback(
      (id: number | undefined) => {
        navigate({ search: { import: id }, replace: true });
      },
      [navigate],
    );
    return <ImportPage id={importing.useSearch().import} onImport={go} />;
  },
});
const source = createRoute({
  getParentRoute: () => frame,
  path: "/contacts/sources/$id",
  component: () => {
    const id = whole(source.useParams().id);
    return <SourcePage key={id} id={id} />;
  },
});
const audiences = createRoute({ getParentRoute: () => frame, path: "/audiences", component: AudiencesPage });
const audience = createRoute({
  getParentRoute: () => frame,
  path: "/audiences/$id",
  component: () => {
    const { id } = audience.useParams();
    return isId(id) ? <AudiencePage key={id} id={id} /> : <NotFoundPage />;
  },
});
const messages = createRoute({ getParentRoute: () => frame, path: "/messages", component: MessagesPage });
const message = createRoute({
  getParentRoute: () => frame,
  path: "/messages/$id",
  component: () => {
    const { id } = message.useParams();
    return isId(id) ? <MessagePage key={id} id={id} /> : <NotFoundPage />;
  },
});
const campaigns = createRoute({ getParentRoute: () => frame, path: "/campaigns", component: CampaignsPage });
const campaign = createRoute({
  getParentRoute: () => frame,
  path: "/campaigns/$id",
  validateSearch: (raw): { stop?: string; run?: number; trace?: number; rehearsal?: number } => ({
    stop: text(raw.stop),
    run: whole(raw.run),
    trace: whole(raw.trace),
    rehearsal: whole(raw.rehearsal),
  }),
  component: () => {
    const navigate = campaign.useNavigate();
    const { stop, run, trace, rehearsal } = campaign.useSearch();
    const { id } = campaign.useParams();
    if (!whole(id)) return <NotFoundPage />;
    return (
      <CampaignPage
        key={id}
        id={Number(id)}
        stop={stop}
        run={run}
        trace={trace}
        rehearsal={rehearsal}
        onGo={(next) => navigate({ search: (old) => ({ ...old, ...next }) })}
      />
    );
  },
});
const responses = createRoute({
  getParentRoute: () => frame,
  path: "/responses",
  validateSearch: (raw): ResponsesPlace => ({
    group: text(raw.group),
    mail: whole(raw.mail),
    delivery: whole(raw.delivery),
    run: whole(raw.run),
  }),
  component: () => {
    const navigate = responses.useNavigate();
    const go = useCallback((search: ResponsesPlace) => void navigate({ search }), [navigate]);
    return <ResponsesPage place={responses.useSearch()} onPlace={go} />;
  },
});
const nowhere = createRoute({ getParentRoute: () => frame, path: "$", component: NotFoundPage });
const setup = createRoute({
  getParentRoute: () => frame,
  path: "/set-up",
  component: () => {
    const may = useMay();
    return (
      <Navigate to="/set-up/$part" params={{ part: may("set_up") ? "organisation" : "account" }} replace />
    );
  },
});
const setupPart = createRoute({
  getParentRoute: () => frame,
  path: "/set-up/$part",
  validateSearch: (raw): AuditPlace => ({
    search: text(raw.search),
    area: text(raw.area),
    user: whole(raw.user),
    since: text(raw.since),
    until: text(raw.until),
  }),
  component: () => {
    const navigate = setupPart.useNavigate();
    const go = useCallback(
      (change: AuditPlace) => {
        navigate({ search: (old) => ({ ...old, ...change }), replace: true });
      },
      [navigate],
    );
    return <SetupPage part={setupPart.useParams().part} log={setupPart.useSearch()} onLog={go} />;
  },
});

const tree = root.addChildren([
  signIn,
  enter,
  join,
  frame.addChildren([
    desk,
    contacts,
    importing,
    source,
    suppression,
    duplicates,
    record,
    audiences,
    audience,
    messages,
    message,
    campaigns,
    campaign,
    responses,
    setup,
    setupPart,
    nowhere,
  ]),
]);

export const router = createRouter({ routeTree: tree, defaultPreload: false });

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
