import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, useMay, wordsOf } from "../../../api";
import { people } from "../../../core/words";
import { ConfirmButton, Diamond, Trouble } from "../../../ui";
import { againQuery } from "../queries";
import classes from "./Again.module.css";

type State = Schemas["DeliveryState"];

/** Who did not get it, for each state, and what can be done about them. */
const STATES: { state: State; words: (one: boolean) => string }[] = [
  { state: "unknown", words: () => "may or may not have got it" },
  { state: "refused", words: (one) => `${one ? "was" : "were"} refused` },
  { state: "stopped", words: (one) => `${one ? "was" : "were"} stopped before it went out` },
  { state: "held", words: (one) => `${one ? "was" : "were"} held back` },
];

interface RestProps {
  view: Schemas["DispatchView"];
  onRun: (run: number) => void;
}

/** What about the rest: once a run is over. */
export function Rest({ view, onRun }: RestProps) {
  const left = STATES.filter(({ state }) => (view.states[state] ?? 0) > 0);
  if (left.length === 0) return null;
  return (
    <section>
      <h2>Who did not get it</h2>
      {left.map(({ state, words }) => (
        <Those key={state} run={view.run_id} state={state} words={words} onRun={onRun} />
      ))}
    </section>
  );
}

interface ThoseProps {
  run: number;
  state: State;
  words: (one: boolean) => string;
  onRun: (run: number) => void;
}

function Those({ run, state, words, onRun }: ThoseProps) {
  const { data } = useQuery(againQuery(run, state));
  if (!data || data.people === 0) return null;
  return (
    <div className={classes.those}>
      <Diamond state={state === "held" ? "attention" : "bad"} size={13} />
      <span>
        <b>{people(data.people)}</b> {words(data.people === 1)}
        {data.gates.length > 0 && data.cleared < data.people && (
          <span className="soft">
            ; not through the gates now: {data.gates.map((gate) => `${gate.label} (${gate.held})`).join(", ")}
          </span>
        )}
      </span>
      <Again run={run} state={state} asked={data} onRun={onRun} />
    </div>
  );
}

interface AgainProps {
  run: number;
  state: State;
  /** Whom it would be for. */
  asked: Schemas["AgainView"];
  /** Only this one. */
  delivery?: number;
  onRun: (run: number) => void;
}

/** Send to exactly those again, or leave them as they are. */
export function Again({ run, state, asked, delivery, onRun }: AgainProps) {
  const queries = useQueryClient();
  const may = useMay();
  const body = { state, delivery_ids: delivery === undefined ? null : [delivery] };
  const path = { params: { path: { run_id: run } } };
  const after = () => renew(queries, "dispatch", "trace", "campaigns", "desk");
  const send = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/runs/{run_id}/again", { ...path, body: { ...body, seen_cleared: asked.cleared } }),
      ),
    onSuccess: ({ run_id }) => onRun(run_id),
    onSettled: after,
  });
  const leave = useMutation({
    mutationFn: () => take(client.POST("/api/runs/{run_id}/leave", { ...path, body })),
    onSettled: after,
  });
  if (!may("release")) return null;
  const fault = send.error ?? leave.error;
  const whom = delivery === undefined ? people(asked.cleared) : "them";
  return (
    <div className={classes.again}>
      {asked.cleared > 0 ? (
        <ConfirmButton
          words={`Send to ${whom} again…`}
          yes={`Send to ${whom}; every gate is asked again`}
          onYes={() => send.mutateAsync()}
        />
      ) : (
        <span className="soft">no gate lets them through</span>
      )}
      {state === "unknown" && (
        <ConfirmButton words="Leave as it is…" yes="Send nothing more" onYes={() => leave.mutateAsync()} />
      )}
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
    </div>
  );
}
