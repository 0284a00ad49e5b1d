import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { client, May, renew, take, useWords, wordsOf } from "../../../../api";
import { pullWords } from "../../../../core/sources";
import { ButtonLink, Trouble } from "../../../../ui";
import { sourcesQuery } from "../../queries";
import classes from "../imports/ImportsDone.module.css";

/** The live sources, each with its last pull and a button to pull it. */
export function SourcesThere() {
  const { data: sources } = useQuery(sourcesQuery);
  const queries = useQueryClient();
  const navigate = useNavigate();
  const words = useWords();
  const pull = useMutation({
    mutationFn: (id: number) =>
      take(client.POST("/api/sources/{source_id}/pull", { params: { path: { source_id: id } } })),
    onSuccess: (view) => navigate({ to: "/contacts/import", search: { import: view.id } }),
    onSettled: () => renew(queries, "sources"),
  });
  return (
    <section aria-label="Live sources">
      <h2>
        Or from a live source{" "}
        <May be="set_up">
          <ButtonLink to="/contacts/sources/$id" params={{ id: "new" }}>
            New live source
          </ButtonLink>
        </May>
      </h2>
      {sources?.length === 0 && (
        <p className="soft">
          Another SQL database, such as a shop's till, read whenever you want or by a schedule.
        </p>
      )}
      {pull.error && <Trouble>{wordsOf(pull.error)}</Trouble>}
      {sources?.map((source) => {
        const last = source.pulls[0];
        return (
          <div key={source.id} className={classes.line}>
            <span className="faint">{last ? words.moment(last.at) : "never fetched"}</span>
            <Link to="/contacts/sources/$id" params={{ id: String(source.id) }}>
              <b>{source.name}</b>
            </Link>
            <span className="soft">{last && (last.fault ?? (last.found && pullWords(last.found)))}</span>
            <Button
              size="compact-sm"
              aria-label={`Fetch and preview: ${source.name}`}
              loading={pull.isPending && pull.variables === source.id}
              onClick={() => pull.mutate(source.id)}
            >
              Fetch and preview
            </Button>
          </div>
        );
      })}
    </section>
  );
}
