import { useQuery } from "@tanstack/react-query";
import { wordsOf } from "../../../api";
import { ButtonLink, PageHead, Trouble } from "../../../ui";
import { SentMessage, TraceSteps, traceQuery } from "../../dispatch";
import classes from "./MailPanel.module.css";

/** Somebody who left by a link: everything about them and that run. */
export function LeftPanel({ delivery }: { delivery: number }) {
  const { data: trace, error } = useQuery(traceQuery(delivery));
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!trace) return null;
  return (
    <>
      <PageHead title={<bdi>{trace.name || trace.address}</bdi>} about={trace.address}>
        <SentMessage delivery={delivery} />
        <ButtonLink to="/contacts" search={{ person: trace.contact_id }}>
          Open contact
        </ButtonLink>
      </PageHead>
      <div className={classes.steps}>
        <TraceSteps trace={trace} />
      </div>
    </>
  );
}
