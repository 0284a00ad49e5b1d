import { type Schemas, useWords } from "../../../api";
import { Diamond } from "../../../ui";
import classes from "./ReleaseStop.module.css";

interface TestedWordsProps {
  tests: Schemas["SentTest"][];
  version: number | null;
}

/** What was sent as a test, by whom, and whether it was these words. */
export function TestedWords({ tests, version }: TestedWordsProps) {
  const words = useWords();
  if (version === null) return null;
  if (!tests.some((test) => test.same)) {
    const last = tests[0];
    return (
      <div className={classes.tested}>
        <div>
          <Diamond state="open" />
          <span>
            Version {version} was not sent as a test.
            {last && ` Earlier words were, ${words.moment(last.at)} by ${last.by}.`}
          </span>
        </div>
      </div>
    );
  }
  return (
    <ul className={classes.tested}>
      {tests
        .filter((test) => test.same)
        .map((test) => (
          <li key={`${test.at} ${test.to}`}>
            <Diamond state="done" />
            <span>
              {test.by} sent {test.shown ? `the message of ${test.shown}` : "a message"} as a test to{" "}
              {test.to}, {words.moment(test.at)}: the same words as version {version}.
            </span>
          </li>
        ))}
    </ul>
  );
}
