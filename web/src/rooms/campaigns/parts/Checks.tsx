import { Button, Popover, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, type Schemas, take, useMay, useWords, wordsOf } from "../../../api";
import { Diamond, Trouble } from "../../../ui";
import classes from "./ReleaseStop.module.css";

type Check = Schemas["Check"];

interface ChecksProps {
  campaignId: number;
  checks: readonly Check[];
  onGo: (stop: string) => void;
}

/** What stands in the way, then advice, then what somebody accepted by name. */
export function Checks({ campaignId, checks, onGo }: ChecksProps) {
  const words = useWords();
  const may = useMay()("write");
  const { takeBack, error } = useAcceptance(campaignId);
  const blocking = checks.filter((check) => check.blocking);
  const advice = checks.filter((check) => !check.blocking && !check.accepted);
  const accepted = checks.filter((check) => check.accepted);
  return (
    <>
      {[...blocking, ...advice].map((check) => (
        <div key={check.digest + check.stop} data-blocking={check.blocking || undefined}>
          <Diamond state={check.blocking ? "attention" : "open"} />
          <span>
            {check.message} <span className="faint">{check.blocking ? "blocking" : "advice"}</span>
          </span>
          <span className={classes.todo}>
            {!check.blocking && may && <Accept campaignId={campaignId} check={check} />}
            {check.stop !== "release" && (
              <Button size="compact-xs" onClick={() => onGo(check.stop)}>
                Go to {check.stop[0]?.toUpperCase()}
                {check.stop.slice(1)}
              </Button>
            )}
          </span>
        </div>
      ))}
      {accepted.map((check) => (
        <div key={check.digest + check.stop}>
          <Diamond state="done" />
          <span>
            <span className="soft">{check.message}</span>
            <br />
            {check.accepted?.by} accepted this, {check.accepted && words.moment(check.accepted.at)}: “
            {check.accepted?.reason}”
          </span>
          {may && (
            <Button size="compact-xs" variant="subtle" onClick={() => takeBack(check.digest)}>
              Take back
            </Button>
          )}
        </div>
      ))}
      {error !== null && <Trouble>{wordsOf(error)}</Trouble>}
    </>
  );
}

function useAcceptance(campaignId: number) {
  const queries = useQueryClient();
  const settled = () => renew(queries, "campaigns");
  const path = (digest: string) => ({ params: { path: { campaign_id: campaignId, digest } } });
  const url = "/api/campaigns/{campaign_id}/advice/{digest}";
  const accepting = useMutation({
    mutationFn: ({ digest, reason }: { digest: string; reason: string }) =>
      take(client.PUT(url, { ...path(digest), body: { reason } })),
    onSuccess: settled,
  });
  const taking = useMutation({
    mutationFn: (digest: string) => take(client.DELETE(url, path(digest))),
    onSettled: settled,
  });
  return { accepting, takeBack: taking.mutate, error: taking.error };
}

/** Why something is right as it is, asked where it stands. */
function Accept({ campaignId, check }: { campaignId: number; check: Check }) {
  const [open, setOpen] = useState(false);
  const [reason, setReason] = useState("");
  const { accepting } = useAcceptance(campaignId);
  return (
    <Popover
      opened={open}
      onChange={setOpen}
      position="bottom-end"
      width={340}
      shadow="md"
      trapFocus
      returnFocus
    >
      <Popover.Target>
        <Button size="compact-xs" variant="subtle" onClick={() => setOpen(!open)}>
          Accept …
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            accepting.mutate({ digest: check.digest, reason });
          }}
        >
          <TextInput
            label="Why is it right as it is?"
            description="It stands here and in the log with your name, until what is said above changes."
            value={reason}
            maxLength={300}
            data-autofocus
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          {accepting.isError && <Trouble>{wordsOf(accepting.error)}</Trouble>}
          <Button
            type="submit"
            mt={10}
            size="compact-sm"
            variant="filled"
            disabled={!reason.trim()}
            loading={accepting.isPending}
          >
            Accept
          </Button>
        </form>
      </Popover.Dropdown>
    </Popover>
  );
}
