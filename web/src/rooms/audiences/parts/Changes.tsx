import type { Schemas } from "../../../api";
import { count } from "../../../core/words";
import { PeopleLinks } from "../../../ui";

interface ChangesProps {
  since: Pick<Schemas["DriftView"], "come" | "come_people" | "gone" | "gone_people">;
  /** What is said when nobody has come or gone. */
  same: string;
}

/** How many have come and gone, and some of them by name. */
export function Changes({ since, same }: ChangesProps) {
  if (since.come + since.gone === 0) return same;
  return (
    <>
      {since.come > 0 && (
        <>
          <b>+{count(since.come)}</b> <Some those={since.come_people} all={since.come} />{" "}
        </>
      )}
      {since.gone > 0 && (
        <>
          <b>−{count(since.gone)}</b> <Some those={since.gone_people} all={since.gone} />
        </>
      )}
    </>
  );
}

/** Some people by name, each a link, and how many more there are. */
function Some({ those, all }: { those: Schemas["SampledPerson"][]; all: number }) {
  return (
    <span className="soft">
      (
      <PeopleLinks people={those} />
      {all > those.length && ` and ${count(all - those.length)} more`})
    </span>
  );
}
