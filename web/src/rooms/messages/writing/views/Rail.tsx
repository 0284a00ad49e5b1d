import { NodeViewContent, NodeViewWrapper } from "@tiptap/react";
import type { ReactNode } from "react";
import { people } from "../../../../core/words";
import classes from "./views.module.css";

interface RailProps {
  /** What is said of the blocks in it, above them. */
  head: ReactNode;
  /** For some people only, or repeated. */
  kind: "some" | "each" | "rest";
  /** How many people read it, where that is known. */
  figure?: number | null | undefined;
  children?: ReactNode;
}

/** Blocks beside a coloured line, with what is said of them above. */
export function Rail({ head, kind, figure, children }: RailProps) {
  return (
    <NodeViewWrapper className={classes.rail} data-kind={kind}>
      <div className={classes.head} contentEditable={false}>
        {head}
        {typeof figure === "number" && <span> · {people(figure)}</span>}
      </div>
      <NodeViewContent className={classes.inside} />
      {children}
    </NodeViewWrapper>
  );
}
