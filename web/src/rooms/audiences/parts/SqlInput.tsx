import { Textarea } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { viewsQuery } from "../queries";
import classes from "./SqlInput.module.css";

interface SqlInputProps {
  sql: string;
  onSql: (sql: string) => void;
}

/** A SELECT that gives people, with what it can read beside it. */
export function SqlInput({ sql, onSql }: SqlInputProps) {
  const { data: views } = useQuery(viewsQuery);
  return (
    <div className={classes.sql}>
      <Textarea
        aria-label="SELECT that gives contact_id"
        classNames={{ input: classes.text }}
        autosize
        minRows={2}
        maxRows={16}
        spellCheck={false}
        value={sql}
        onChange={(event) => onSql(event.currentTarget.value)}
      />
      {views?.length === 0 && (
        <p className="soft">SQL by hand is not set up on this database: docs/operations.md says how.</p>
      )}
      {views && views.length > 0 && (
        <details>
          <summary className="soft">
            One SELECT that gives <span className="mono">contact_id</span>; it can read these views and
            nothing else
          </summary>
          <dl className={classes.views}>
            {views.map((view) => (
              <div key={view.name}>
                <dt>
                  <span className="mono">{view.name}</span> <span className="soft">{view.about}</span>
                </dt>
                <dd>
                  {view.columns.map((column) => (
                    <span key={column.name}>
                      <span className="mono">{column.name}</span> <span className="faint">{column.type}</span>
                    </span>
                  ))}
                </dd>
              </div>
            ))}
          </dl>
        </details>
      )}
    </div>
  );
}
