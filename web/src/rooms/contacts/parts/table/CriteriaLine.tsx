import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { CriteriaFault, CriteriaText } from "../../../audiences";
import { criteriaQuery } from "../../queries";
import classes from "./CriteriaLine.module.css";

interface CriteriaLineProps {
  value: string;
  onChange: (criteria: string) => void;
}

/** The criteria above the table, as one line of text. What has a fault is told and not looked for. */
export function CriteriaLine({ value, onChange }: CriteriaLineProps) {
  const [text, setText] = useState(value);
  // What was typed goes out trimmed and comes back: the blank that somebody is about to write behind stays.
  useEffect(() => setText((old) => (old.trim() === value ? old : value)), [value]);
  const asked = text.trim();
  const { data } = useQuery(criteriaQuery(asked));
  const problem = asked === "" ? null : data?.problem;
  const clean = asked === "" || (data !== undefined && data.problem === null);
  useEffect(() => {
    if (!clean || asked === value) return;
    const timer = setTimeout(() => onChange(asked), 250);
    return () => clearTimeout(timer);
  }, [clean, asked, value, onChange]);
  return (
    <div className={classes.line}>
      <CriteriaText
        label="Criteria"
        placeholder="Criteria: volunteer"
        box={classes.input ?? ""}
        text={text}
        faulty={!!problem}
        audienceId={null}
        onText={setText}
      >
        {problem && <CriteriaFault text={asked} problem={problem} onText={setText} />}
      </CriteriaText>
    </div>
  );
}
