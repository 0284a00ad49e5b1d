import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../../api";
import { ButtonLink } from "../../../ui";
import { SentMessage, sentQuery, TraceSteps, traceQuery } from "../../dispatch";
import classes from "./MailPanel.module.css";

/** Beside what somebody wrote: the message that they were sent, and what happened with it. */
export function Beside({ mail }: { mail: Schemas["MailView"] }) {
  const delivery = mail.delivery_id ?? 0;
  const asked = { enabled: delivery > 0 };
  const { data: trace } = useQuery({ ...traceQuery(delivery), ...asked });
  const { data: sent } = useQuery({ ...sentQuery(delivery), ...asked });
  if (!delivery)
    return (
      <aside className={classes.beside} aria-label="What it is about">
        <p className="soft">No message of ours was found that it is about.</p>
      </aside>
    );
  return (
    <aside className={classes.beside} aria-label="What it is about">
      <div className={classes.about}>
        <b>
          about{" "}
          <Link
            to="/campaigns/$id"
            params={{ id: String(mail.campaign_id) }}
            search={{ stop: "dispatch", run: mail.run_id ?? 0, trace: delivery }}
          >
            {mail.campaign}
          </Link>
        </b>
        <bdi>{sent?.subject}</bdi>
        <SentMessage delivery={delivery} />
        {mail.contact_id && (
          <ButtonLink to="/contacts" search={{ person: mail.contact_id }}>
            Open contact
          </ButtonLink>
        )}
      </div>
      {trace && <TraceSteps trace={trace} last={5} />}
    </aside>
  );
}
