import { Button, Group } from "@mantine/core";
import type { Schemas } from "../../../../api";
import { count, people } from "../../../../core/words";
import { ButtonLink, Diamond } from "../../../../ui";
import classes from "./ImportReport.module.css";
import { UndoImport } from "./UndoImport";

/** What was brought in, with the refused rows as a file to mend. */
export function ImportReport({ view, onNext }: { view: Schemas["ImportView"]; onNext: () => void }) {
  return (
    <section className={classes.report} role="status">
      <h2>
        <Diamond state="done" /> {view.filename} is in
      </h2>
      <p>
        <b>{count(view.new)}</b> new, <b>{count(view.changed)}</b> changed, <b>{count(view.same)}</b> the
        same, <b>{count(view.refused)}</b> refused.
      </p>
      {view.outlook && (
        <p>
          {people(view.outlook.subscribed)} opted in: “{view.legal_basis}”.
          {view.outlook.left > 0 && ` ${people(view.outlook.left)} had left and stay out.`}
        </p>
      )}
      <Group gap={10} wrap="nowrap" mt={14}>
        {view.refused > 0 && (
          <Button component="a" href={`/api/imports/${view.id}/refused`} download>
            Save the {count(view.refused)} refused rows to mend them
          </Button>
        )}
        {view.source_id ? (
          <ButtonLink to="/contacts/sources/$id" params={{ id: String(view.source_id) }}>
            See the live source
          </ButtonLink>
        ) : (
          <Button onClick={onNext}>Import another file</Button>
        )}
        <UndoImport id={view.id} undone={view.state === "undone"} />
        <ButtonLink to="/contacts" variant="filled">
          See the contacts
        </ButtonLink>
      </Group>
    </section>
  );
}
