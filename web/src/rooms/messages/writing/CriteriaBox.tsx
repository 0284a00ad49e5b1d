import { useCallback, useState } from "react";
import type { Repeated } from "../../../core/writing";
import { CriteriaEditor, CriteriaText, useCriteria } from "../../audiences";
import classes from "./CriteriaBox.module.css";

interface CriteriaBoxProps {
  criteria: string;
  within?: Repeated | undefined;
  onCriteria: (criteria: string) => void;
}

/** For whom something is, written as an audience's conditions are. */
export function CriteriaBox(props: CriteriaBoxProps) {
  return (
    <div className={classes.box}>
      <b>Only for those who meet this</b>
      {props.within ? <AsText {...props} /> : <AsRows {...props} />}
    </div>
  );
}

function AsRows({ criteria, onCriteria }: CriteriaBoxProps) {
  const [text, setText] = useState(criteria);
  const onText = useCallback(
    (next: string) => {
      setText(next);
      onCriteria(next);
    },
    [onCriteria],
  );
  return <CriteriaEditor criteria={useCriteria(text, onText)} />;
}

/** What is repeated has names of its own, which rows do not know. */
function AsText({ criteria, within, onCriteria }: CriteriaBoxProps) {
  return (
    <CriteriaText
      label="Criteria as text"
      text={criteria}
      faulty={false}
      audienceId={null}
      placeholder={`${within?.variable}.… is …`}
      onText={onCriteria}
    />
  );
}
