import { ActionIcon, Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { type Schemas, useWords } from "../../../api";
import { domainOf, type Pace } from "../../../core/pace";
import { people } from "../../../core/words";
import { NumberField } from "../../../ui";
import classes from "./PaceStop.module.css";

interface SlowDomainsProps {
  limits: Pace["domain_limits"];
  domains: Schemas["SlowDomain"][];
  onChange: (limits: Pace["domain_limits"]) => void;
}

/** Domains that get no more than so many an hour; nobody else waits for them. */
export function SlowDomains({ limits, domains, onChange }: SlowDomainsProps) {
  const words = useWords();
  const [typed, setTyped] = useState("");
  const [hourly, setHourly] = useState<number | null>(100);
  const domain = domainOf(typed);
  const known = limits.some((one) => one.domain === domain);
  const fault =
    typed && !domain
      ? "A domain is such as quartzmail.example."
      : known
        ? "It has a limit already."
        : undefined;
  const can = domain !== undefined && !known && hourly !== null && limits.length < 50;
  return (
    <section>
      <h2>Where it is slow</h2>
      {limits.map((limit) => {
        const told = domains.find((one) => one.domain === limit.domain);
        return (
          <div key={limit.domain} className={classes.domain}>
            <span>
              <b>{limit.domain}</b>
              <span className="soft">
                {told ? ` ${people(told.people)}` : ""}
                {told?.end && told.people > 0 ? `, through ${words.moment(told.end)}` : ""}
              </span>
            </span>
            <NumberField
              size="xs"
              aria-label={`At most an hour to ${limit.domain}`}
              rightSection="an hour"
              rightSectionWidth={58}
              min={1}
              max={10_000_000}
              whole
              value={limit.hourly}
              onNumber={(next) =>
                onChange(limits.map((one) => (one.domain === limit.domain ? { ...one, hourly: next } : one)))
              }
            />
            <ActionIcon
              size="sm"
              variant="subtle"
              aria-label={`Take away the limit of ${limit.domain}`}
              onClick={() => onChange(limits.filter((one) => one.domain !== limit.domain))}
            >
              ×
            </ActionIcon>
          </div>
        );
      })}
      <form
        className={classes.domain}
        onSubmit={(event) => {
          event.preventDefault();
          if (!can || domain === undefined || hourly === null) return;
          onChange([...limits, { domain, hourly }]);
          setTyped("");
        }}
      >
        <TextInput
          size="xs"
          aria-label="Domain with a limit of its own"
          placeholder="quartzmail.example"
          value={typed}
          error={fault}
          onChange={(event) => setTyped(event.currentTarget.value)}
        />
        <NumberField
          size="xs"
          aria-label="At most an hour to that domain"
          rightSection="an hour"
          rightSectionWidth={58}
          min={1}
          max={10_000_000}
          whole
          value={hourly}
          onNumber={setHourly}
          onBlank={() => setHourly(null)}
        />
        <Button size="xs" type="submit" disabled={!can}>
          Add
        </Button>
      </form>
    </section>
  );
}
