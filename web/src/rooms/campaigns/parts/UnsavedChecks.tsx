import { Button } from "@mantine/core";
import type { DraftState } from "../../../core/drafts";
import { Diamond, throwAway } from "../../../ui";

type Unsaved = Pick<DraftState<unknown>, "changed" | "standing" | "fault" | "saving"> & {
  save: () => Promise<boolean>;
  throwAway: () => unknown;
  edit: (doc: never) => void;
};

interface UnsavedChecksProps {
  drafts: { audience: Unsaved | undefined; message: Unsaved | undefined };
  onGo: (stop: string) => void;
}

/** What is changed and not saved stands in the way of a release; it is saved or thrown away from here. */
export function UnsavedChecks({ drafts, onGo }: UnsavedChecksProps) {
  const open = [
    { draft: drafts.audience, what: "conditions", stop: "who" },
    { draft: drafts.message, what: "words", stop: "words" },
  ];
  return open.map(({ draft, what, stop }) => {
    if (!draft?.changed) return null;
    const clash = draft.standing.kind === "clash";
    return (
      <div key={what} data-blocking>
        <Diamond state="attention" />
        <span>
          You changed the {what} and did not save them{draft.fault ? `: ${draft.fault}` : "."}{" "}
          <span className="faint">blocking</span>
        </span>
        <span>
          {clash || draft.fault ? (
            <Button size="compact-xs" onClick={() => onGo(stop)}>
              Look at them
            </Button>
          ) : (
            <Button size="compact-xs" loading={draft.saving} onClick={() => void draft.save()}>
              Save them
            </Button>
          )}{" "}
          <Button size="compact-xs" onClick={() => throwAway(draft)}>
            Throw them away
          </Button>
        </span>
      </div>
    );
  });
}
