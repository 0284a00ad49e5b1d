import { Button, NativeSelect } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schemas } from "../../../api";
import {
  addAt,
  type Group,
  isLeaf,
  type NameLists,
  type Node,
  newCondition,
  type Path,
  replaceAt,
} from "../../../core/criteria";
import classes from "./GroupRows.module.css";
import { LeafRow } from "./LeafRow";

interface GroupRowsProps {
  /** The whole tree; edits give a new one. */
  root: Group;
  /** Where this group stands in it. */
  path: Path;
  /** The group itself, where it is not the root. */
  group?: Group;
  denied?: boolean;
  vocabulary: Schemas["Vocabulary"];
  names: NameLists | undefined;
  onRoot: (root: Group) => void;
  aside?: ReactNode;
}

const WORDS = [
  { value: "all", label: "all of" },
  { value: "any", label: "any of" },
  { value: "none", label: "none of" },
];

/** A group of conditions, and the groups in it. */
export function GroupRows({
  root,
  path,
  group = root,
  denied = false,
  vocabulary,
  names,
  onRoot,
  aside,
}: GroupRowsProps) {
  const today = new Date().toISOString().slice(0, 10);
  const first = vocabulary.fields.find((field) => field.type === "choice") ?? vocabulary.fields[0];
  function setKind(kind: string) {
    const children = group.children;
    const plain: Group = { kind: kind === "all" ? "all" : "any", children };
    const next: Node = kind === "none" ? { kind: "not", child: plain } : plain;
    if (path.length > 0) onRoot(replaceAt(root, path, next));
    else onRoot(kind === "none" ? { kind: "all", children: [next] } : plain);
  }
  function add() {
    if (first) onRoot(addAt(root, path, newCondition(first, vocabulary.operators, today)));
  }
  function addGroup() {
    if (!first) return;
    const inner: Group = { kind: "any", children: [newCondition(first, vocabulary.operators, today)] };
    onRoot(addAt(root, path, inner));
  }
  return (
    <div className={classes.group} data-inner={path.length > 0 || undefined}>
      <div className={classes.head}>
        {group.children.length === 0 ? (
          <span className="soft">everyone</span>
        ) : (
          <NativeSelect
            size="xs"
            className={classes.kind}
            aria-label="How the conditions are joined"
            value={denied ? "none" : group.kind}
            data={WORDS}
            disabled={group.children.length === 0}
            onChange={(event) => setKind(event.currentTarget.value)}
          />
        )}
        <Button size="compact-xs" onClick={add}>
          Add condition
        </Button>
        {path.length < 4 && group.children.length > 0 && (
          <Button size="compact-xs" onClick={addGroup}>
            Add group
          </Button>
        )}
        {path.length > 0 && (
          <Button
            size="compact-xs"
            variant="subtle"
            color="gray"
            onClick={() => onRoot(replaceAt(root, path, null))}
          >
            Remove group
          </Button>
        )}
        {aside}
      </div>
      {group.children.map((child, index) => (
        <NodeRow
          key={index}
          node={child}
          root={root}
          path={[...path, index]}
          vocabulary={vocabulary}
          names={names}
          onRoot={onRoot}
        />
      ))}
    </div>
  );
}

function NodeRow({
  node,
  root,
  path,
  vocabulary,
  names,
  onRoot,
}: Omit<GroupRowsProps, "group" | "aside"> & { node: Node }) {
  const inner = node.kind === "not" ? node.child : node;
  const common = { root, path, vocabulary, names, onRoot };
  if (isLeaf(inner)) {
    return (
      <LeafRow
        leaf={inner}
        denied={node.kind === "not"}
        vocabulary={vocabulary}
        names={names}
        records={(parts, root, onRoot) => (
          <GroupRows root={root} path={[]} vocabulary={parts} names={undefined} onRoot={onRoot} />
        )}
        onChange={(next) => onRoot(replaceAt(root, path, next))}
      />
    );
  }
  if (inner.kind === "not") return <div className={classes.text}>edited as text below</div>;
  return <GroupRows {...common} group={inner} denied={node.kind === "not"} />;
}
