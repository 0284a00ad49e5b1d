import { wordsOf } from "../../../api";
import { Diamond, Trouble } from "../../../ui";
import type { useTestSends } from "../useTestSends";

interface TestAnswerProps extends ReturnType<typeof useTestSends> {
  /** What is said when all of several were sent. */
  all: (of: number) => string;
}

/** How far tests are, and how it ended. */
export function TestAnswer({ send, done, all }: TestAnswerProps) {
  const of = send.variables?.length ?? 0;
  const begun = done > 0 && `${done} of ${of} were sent. `;
  return (
    <>
      {send.isPending && of > 1 && `${done} of ${of} sent`}
      {send.isError && (
        <Trouble>
          {begun}
          {wordsOf(send.error)}
        </Trouble>
      )}
      {send.data && !send.data.accepted && (
        <Trouble tone="held">
          {begun}
          {send.data.words}
        </Trouble>
      )}
      {send.data?.accepted && (
        <span className="soft">
          <Diamond state="done" size={13} /> {of > 1 ? all(of) : send.data.words}
        </span>
      )}
    </>
  );
}
