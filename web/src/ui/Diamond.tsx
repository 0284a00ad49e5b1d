export type DiamondState = "done" | "half" | "open" | "later" | "attention" | "bad";

/** The garnet's rhombus as the shape of a state: filled done, half under way, outlined open, dashed not yet. */
export function Diamond({ state, size = 16 }: { state: DiamondState; size?: number }) {
  const tone = {
    attention: "var(--held)",
    bad: "var(--failed)",
    done: "var(--garnet)",
    half: "var(--garnet)",
  }[state as string];
  const line = tone ?? "var(--ink-faint)";
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden="true" style={{ flex: "none" }}>
      <path
        d="M8 1l7 7-7 7-7-7z"
        fill={state === "done" || state === "bad" ? line : "none"}
        stroke={line}
        strokeWidth={1.5}
        strokeDasharray={state === "later" ? "2 2" : undefined}
      />
      {state === "half" && <path d="M8 1v14L1 8z" fill={line} />}
      {state === "attention" && <path d="M8 4.6v4.2M8 10.8v.8" stroke={line} strokeWidth={1.7} />}
    </svg>
  );
}
