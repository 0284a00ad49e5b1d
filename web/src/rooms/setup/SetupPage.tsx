import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useMay, vocabularyQuery, wordsOf } from "../../api";
import { Empty, Trouble } from "../../ui";
import { AccountPart } from "./parts/AccountPart";
import { AuditPart, type AuditPlace } from "./parts/AuditPart";
import { FieldsPart } from "./parts/FieldsPart";
import { LettersPart } from "./parts/LettersPart";
import { LimitsPart } from "./parts/LimitsPart";
import { OrganisationPart } from "./parts/OrganisationPart";
import { ReadersPart } from "./parts/ReadersPart";
import { RelaysPart } from "./parts/RelaysPart";
import { SendersPart } from "./parts/SendersPart";
import { SigningPart } from "./parts/SigningPart";
import { SignUpPart } from "./parts/SignUpPart";
import { TokensPart } from "./parts/TokensPart";
import { TopicsPart } from "./parts/TopicsPart";
import { UsersPart } from "./parts/UsersPart";
import { PARTS } from "./places";
import classes from "./SetupPage.module.css";

interface Props {
  /** The key of the part that is looked at. */
  part: string;
  /** What is looked for in the audit log. */
  log: AuditPlace;
  onLog: (place: AuditPlace) => void;
}

/** What the others work with: one part at a time, with all of them at the left. */
export function SetupPage({ part, log, onLog }: Props) {
  const may = useMay();
  const { data: vocabulary, error } = useQuery(vocabularyQuery);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!vocabulary) return null;
  const shown = PARTS.map((group) => ({ ...group, parts: group.parts.filter((one) => may(one.needs)) }));
  const here = shown.flatMap((group) => group.parts).find((one) => one.key === part);
  const bodies: Record<string, () => React.ReactNode> = {
    account: () => <AccountPart />,
    tokens: () => <TokensPart />,
    organisation: () => <OrganisationPart />,
    letters: () => <LettersPart />,
    senders: () => <SendersPart senders={vocabulary.senders} />,
    signing: () => <SigningPart />,
    relays: () => <RelaysPart pools={vocabulary.pools} />,
    topics: () => <TopicsPart vocabulary={vocabulary} />,
    "sign-up": () => <SignUpPart vocabulary={vocabulary} />,
    limits: () => <LimitsPart />,
    readers: () => <ReadersPart vocabulary={vocabulary} />,
    fields: () => <FieldsPart fields={vocabulary.fields} />,
    users: () => <UsersPart />,
    log: () => <AuditPart place={log} onPlace={onLog} />,
  };
  return (
    <div className={classes.sheet}>
      <nav className={classes.parts} aria-label="Parts of the set-up">
        <div className={classes.title}>Set-up</div>
        {shown
          .filter((group) => group.parts.length > 0)
          .map((group) => (
            <div key={group.about}>
              <div className={classes.about}>{group.about}</div>
              {group.parts.map((one) => (
                <Link
                  key={one.key}
                  to="/set-up/$part"
                  params={{ part: one.key }}
                  className={classes.part}
                  activeProps={{ className: `${classes.part} ${classes.here}` }}
                >
                  {one.words}
                </Link>
              ))}
            </div>
          ))}
      </nav>
      <div className={classes.page}>
        {here ? (
          bodies[here.key]?.()
        ) : (
          <Empty title="There is nothing here for you">
            This part is set up by administrators, or there is none of this name.
          </Empty>
        )}
      </div>
    </div>
  );
}
