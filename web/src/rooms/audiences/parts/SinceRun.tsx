import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useWords } from "../../../api";
import { people } from "../../../core/words";
import { sinceRunQuery } from "../queries";
import { Changes } from "./Changes";

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
      <Changes since={since} same="the same people would get it now." />
    </section>
  );
}
