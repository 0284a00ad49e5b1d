import { useQuery } from "@tanstack/react-query";
import { vocabularyQuery } from "../../../api";
import { count } from "../../../core/words";
import { namesQuery } from "../queries";
import type { Criteria } from "../useCriteria";
import classes from "./CriteriaEditor.module.css";
import { CriteriaFault } from "./CriteriaFault";
import { CriteriaText } from "./CriteriaText";
import { GroupRows } from "./GroupRows";

/** Conditions as rows and as one line of text; either can be edited. */
export function CriteriaEditor({ criteria }: { criteria: Criteria }) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const { data: names } = useQuery(namesQuery);
  const { view, text } = criteria;
  const problem = criteria.settled ? view?.problem : undefined;
  return (
    <div className={classes.editor}>
      <div className={classes.rows}>
        {vocabulary && names && (
          <GroupRows
            root={criteria.root}
            path={[]}
            vocabulary={vocabulary}
            names={names}
            onRoot={criteria.setRoot}
            aside={
              <span className={classes.count} data-stale={!criteria.settled || undefined} aria-live="polite">
                {view?.matched !== null && view?.matched !== undefined ? (
                  <>
                    {view.estimated && "about "}
                    <b>{count(view.matched)}</b> of {count(view.total)} match
                  </>
                ) : (
                  "…"
                )}
              </span>
            }
          />
        )}
      </div>
      <CriteriaText
        label="Criteria as text"
        box={classes.line ?? ""}
        text={text}
        faulty={!!problem}
        audienceId={criteria.audienceId}
        onText={criteria.setText}
      >
        {problem && <CriteriaFault text={text} problem={problem} onText={criteria.setText} />}
      </CriteriaText>
      {criteria.fault && (
        <div className={classes.problem} role="alert">
          {criteria.fault}
        </div>
      )}
    </div>
  );
}
