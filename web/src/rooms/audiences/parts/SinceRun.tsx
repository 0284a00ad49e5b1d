import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useWords } from "../../../api";
import { count, people } from "../../../core/words";
import { sinceRunQuery } from "../queries";
import { Some } from "./Some";

/** What has changed since the last run that went to the audience. */
export function SinceRun({ audienceId }: { audienceId: number }) {
  const { data: since } = useQuery(sinceRunQuery(audienceId));
  const words = useWords();
  if (!since) return null;
  return (
    <section aria-label="Since the last run">
      <span className="soft">
        Since{" "}
        <Link to="/campaigns/$id" params={{ id: String(since.campaign_id) }}>
          {since.campaign}
        </Link>{" "}
        went to {people(since.planned)}, {words.moment(since.released_at)}:
      </span>{" "}
      {since.come + since.gone === 0 ? (
        "the same people would get it now."
      ) : (
        <>
          {since.come > 0 && (
            <>
              <b>+{count(since.come)}</b> <Some those={since.come_people} all={since.come} />{" "}
            </>
          )}
          {since.gone > 0 && (
            <>
              <b>−{count(since.gone)}</b> <Some those={since.gone_people} all={since.gone} />
            </>
          )}
        </>
      )}
    </section>
  );
}
