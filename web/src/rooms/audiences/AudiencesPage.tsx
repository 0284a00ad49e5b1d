import { useQuery } from "@tanstack/react-query";
import { May, useWords, wordsOf } from "../../api";
import { ButtonLink, Empty, LineLink, Page, PageHead, Trouble } from "../../ui";
import classes from "./AudiencesPage.module.css";
import { audiencesQuery } from "./queries";
import { uses } from "./uses";

/** All audiences. */
export function AudiencesPage() {
  const { data: audiences, error } = useQuery(audiencesQuery);
  const words = useWords();
  return (
    <Page>
      <PageHead title="Audiences" about="people chosen by conditions, looked up anew at each run">
        <May be="write">
          <ButtonLink to="/audiences/$id" params={{ id: "new" }} variant="filled">
            New audience
          </ButtonLink>
        </May>
      </PageHead>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {audiences?.length === 0 && (
        <Empty title="There is no audience yet">
          Make one from two or three conditions, such as membership and town.
        </Empty>
      )}
      {audiences?.map((audience) => (
        <LineLink
          key={audience.id}
          to="/audiences/$id"
          params={{ id: String(audience.id) }}
          className={classes.line}
        >
          <b>{audience.name}</b>
          <span className={`mono soft ${classes.text}`}>
            {audience.text}
            {audience.part_words && ` · ${audience.part_words}`}
            {audience.frozen_at && ` · frozen ${words.moment(audience.frozen_at)}`}
          </span>
          <span className="soft">
            {uses(audience.used_in)} · {words.moment(audience.updated_at)}
          </span>
        </LineLink>
      ))}
    </Page>
  );
}
