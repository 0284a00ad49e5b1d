import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, take } from "../../../api";
import classes from "./CriteriaLine.module.css";

interface CriteriaLineProps {
  value: string;
  onChange: (criteria: string) => void;
}

/** The criteria above the table, as one line of text. What has a fault is told and not looked for. */
export function CriteriaLine({ value, onChange }: CriteriaLineProps) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const asked = text.trim();
  const { data } = useQuery({
    queryKey: ["criteria", asked],
    queryFn: () => take(client.POST("/api/criteria", { body: { text: asked } })),
    enabled: asked !== "",
    staleTime: 30_000,
  });
  const problem = asked === "" ? null : data?.problem;
  const clean = asked === "" || (data !== undefined && data.problem === null);
  useEffect(() => {
    if (!clean || asked === value) return;
    const timer = setTimeout(() => onChange(asked), 250);
    return () => clearTimeout(timer);
  }, [clean, asked, value, onChange]);
  return (
    <div className={classes.line}>
      <TextInput
        aria-label="Criteria"
        placeholder='Criteria, such as: membership is "Patron" and renews_on within next 30 days'
        classNames={{ input: classes.input ?? "" }}
        spellCheck={false}
        value={text}
        error={!!problem}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      {problem && (
        <div className={classes.problem} role="alert">
          <span className="mono">
            {asked.slice(Math.max(0, problem.start - 20), problem.start)}
            <mark>{asked.slice(problem.start, problem.end) || "␣"}</mark>
          </span>{" "}
          {problem.message}{" "}
          {problem.suggestion && (
            <button
              type="button"
              onClick={() =>
                setText(asked.slice(0, problem.start) + problem.suggestion + asked.slice(problem.end))
              }
            >
              Use {problem.suggestion}
            </button>
          )}
        </div>
      )}
    </div>
  );
}
