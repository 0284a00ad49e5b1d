import { Button, CopyButton, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { Diamond, type DiamondState, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import { signingQuery } from "./queries";
import signing from "./SigningPart.module.css";

type Key = Schemas["SigningKeyView"];
type Algorithm = Schemas["Algorithm"];

/** Keys by which receiving systems know whose mail it is (DKIM). */
export function SigningPart() {
  const queries = useQueryClient();
  const { data, error } = useQuery(signingQuery);
  const [algorithm, setAlgorithm] = useState<Algorithm>("rsa-sha256");
  const make = useMutation({
    mutationFn: (domain: string) => take(client.POST("/api/signing", { body: { domain, algorithm } })),
    onSettled: () => renew(queries, "signing"),
  });
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!data) return null;
  const domains = [...new Set([...data.domains, ...data.keys.map((key) => key.domain)])].sort();
  return (
    <section aria-label="Signing">
      <PageHead title="Signing">
        <NativeSelect
          size="xs"
          aria-label="Kind of the next key"
          value={algorithm}
          data={[
            { value: "rsa-sha256", label: "RSA: every receiver knows it" },
            { value: "ed25519-sha256", label: "Ed25519: short, beside an RSA key" },
          ]}
          onChange={(event) => setAlgorithm(event.currentTarget.value as Algorithm)}
        />
      </PageHead>
      <p className="soft">
        A signature (DKIM) shows receiving systems that a message is yours and was not changed. Make a key,
        put its record into the DNS of the domain, look it up here, and begin to sign.
      </p>
      {make.isError && <Trouble>{wordsOf(make.error)}</Trouble>}
      {domains.map((domain) => {
        const keys = data.keys.filter((key) => key.domain === domain);
        return (
          <div key={domain}>
            <div className={classes.line}>
              <b>{domain}</b>
              <span className="soft">
                {keys.some((key) => key.signs) ? "" : "its messages are not signed"}
              </span>
              <span className={classes.acts}>
                <Button
                  size="compact-xs"
                  disabled={!data.domains.includes(domain)}
                  loading={make.isPending && make.variables === domain}
                  onClick={() => make.mutate(domain)}
                >
                  Make a key
                </Button>
              </span>
            </div>
            {keys.map((key) => (
              <KeyCard key={key.id} of={key} />
            ))}
            {data.domains.includes(domain) && <DomainWords domain={domain} />}
          </div>
        );
      })}
    </section>
  );
}

const STANDINGS: Record<Schemas["Standing"], DiamondState> = {
  well: "done",
  advice: "attention",
  wrong: "bad",
};

/** What the domain's own records say of mail from it; looked up when somebody asks. */
function DomainWords({ domain }: { domain: string }) {
  const look = useMutation({
    mutationFn: () => take(client.GET("/api/signing/domains/{domain}", { params: { path: { domain } } })),
  });
  return (
    <div className={signing.key}>
      <div className={signing.head}>
        <span />
        <span className="soft">Who may send for {domain}, and what becomes of mail that is not its own</span>
        <Button size="compact-xs" loading={look.isPending} onClick={() => look.mutate()}>
          Look up SPF and DMARC
        </Button>
      </div>
      {look.isError && <Trouble>{wordsOf(look.error)}</Trouble>}
      {look.data?.map((word) => (
        <div key={word.about} className={signing.record}>
          <span>
            <Diamond state={STANDINGS[word.standing]} size={13} /> {word.about}
          </span>
          <span>
            {word.words}
            {word.record && <code className={`mono ${signing.said}`}>{word.record}</code>}
          </span>
        </div>
      ))}
    </div>
  );
}

function stateOf(key: Key): { mark: DiamondState; words: string } {
  const found = key.published_at !== null && key.published_at === key.looked_up_at;
  if (key.signs) return { mark: "done", words: "signs what is released from now on" };
  if (found) return { mark: "half", words: "is in the DNS, and signs nothing yet" };
  if (key.looked_up_at)
    return { mark: "attention", words: "is not in the DNS yet; that can take an hour or more" };
  return { mark: "open", words: "has not been looked up yet" };
}

function KeyCard({ of: key }: { of: Key }) {
  const words = useWords();
  const queries = useQueryClient();
  const path = { params: { path: { key_id: key.id } } };
  const settled = { onSettled: () => renew(queries, "signing") };
  const lookUp = useMutation({
    mutationFn: () => take(client.POST("/api/signing/{key_id}/look-up", path)),
    ...settled,
  });
  const sign = useMutation({
    mutationFn: (signs: boolean) => take(client.PUT("/api/signing/{key_id}", { ...path, body: { signs } })),
    ...settled,
  });
  const { mark, words: state } = stateOf(key);
  const found = key.published_at !== null && key.published_at === key.looked_up_at;
  const fault = lookUp.error ?? sign.error;
  return (
    <div className={signing.key}>
      <div className={signing.head}>
        <Diamond state={mark} size={13} />
        <span>
          <b>{key.selector}</b> {state}
          <span className="soft">
            , made {words.day(key.made_at)}
            {key.looked_up_at && `, looked up ${words.moment(key.looked_up_at)}`}
          </span>
        </span>
        <span className={classes.acts}>
          <Button size="compact-xs" loading={lookUp.isPending} onClick={() => lookUp.mutate()}>
            Look it up
          </Button>
          <Button
            size="compact-xs"
            variant={found && !key.signs ? "filled" : "default"}
            disabled={!key.signs && !found}
            loading={sign.isPending}
            onClick={() => sign.mutate(!key.signs)}
          >
            {key.signs ? "Sign no more" : "Begin to sign"}
          </Button>
        </span>
      </div>
      <Copied label="Name" value={key.record_name} />
      <Copied label="TXT" value={key.record} />
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
    </div>
  );
}

function Copied({ label, value }: { label: string; value: string }) {
  return (
    <div className={signing.record}>
      <span className="soft">{label}</span>
      <code className="mono">{value}</code>
      <CopyButton value={value}>
        {({ copied, copy }) => (
          <Button size="compact-xs" aria-label={`Copy ${label}`} onClick={copy}>
            {copied ? "Copied" : "Copy"}
          </Button>
        )}
      </CopyButton>
    </div>
  );
}
