import { ActionIcon, Button, NativeSelect, TextInput } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import type { BlockOf } from "../../../../core/content";
import { textOf, withText } from "../../../../core/passages";
import { columnFor, columnsFor, MOST_COLUMNS } from "../../../../core/writing";
import { useWriting } from "../context";
import { Faults } from "../Faults";
import { LineEditor } from "../LineEditor";
import { ListChooser } from "../ListChooser";
import { useProblemsAt } from "../problems";
import classes from "./views.module.css";

type Column = BlockOf<"table">["columns"][number];

/** A table over a list: for each column what stands above it, in each row, and in the row of totals. */
export function TableView({ editor, getPos, node, selected, updateAttributes }: NodeViewProps) {
  const block = node.attrs.block as BlockOf<"table">;
  const { vocabulary, may } = useWriting();
  const set = (change: Partial<BlockOf<"table">>) => updateAttributes({ block: { ...block, ...change } });
  const list = vocabulary.fields.find((one) => one.key === block.listed);
  const problems = useProblemsAt(editor, getPos);
  const column = (at: number, change: Partial<Column>) =>
    set({ columns: block.columns.map((one, index) => (index === at ? { ...one, ...change } : one)) });
  const within = { variable: block.variable, listed: block.listed };
  const unused = (list?.parts ?? []).filter(
    (part) => !block.columns.some((one) => one.value.includes(`.${part.key}`)),
  );
  return (
    <NodeViewWrapper className={classes.rail} data-kind="each" data-selected={selected || undefined}>
      <div className={classes.head}>
        <ListChooser
          over={block}
          onOver={(over) =>
            set({
              ...over,
              ...(over.listed === block.listed ? {} : { columns: columnsFor(over, vocabulary.fields) }),
            })
          }
        />
      </div>
      <div className={classes.tableScroll}>
        <table className={classes.table}>
          <thead>
            <tr>
              {block.columns.map((one, at) => (
                <th key={at} data-align={one.align}>
                  <LineEditor
                    bare
                    label={`Title of column ${at + 1}`}
                    placeholder="no title"
                    value={one.title}
                    onChange={(title) => column(at, { title })}
                  />
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            <tr>
              {block.columns.map((one, at) => (
                <td key={at} data-align={one.align}>
                  <LineEditor
                    bare
                    label={`Column ${at + 1}, for each record`}
                    value={one.value}
                    within={within}
                    problems={problems.filter((each) => each.part.includes(`columns.${at}.value`))}
                    onChange={(value) => column(at, { value })}
                  />
                </td>
              ))}
            </tr>
            <tr className={classes.totals}>
              {block.columns.map((one, at) => (
                <td key={at} data-align={one.align}>
                  <LineEditor
                    bare
                    label={`Column ${at + 1}, below all records`}
                    placeholder={at === 0 ? "no totals" : ""}
                    value={one.total}
                    problems={problems.filter((each) => each.part.includes(`columns.${at}.total`))}
                    onChange={(total) => column(at, { total })}
                  />
                </td>
              ))}
            </tr>
          </tbody>
          {may && (
            <tfoot className={classes.whenHere}>
              <tr>
                {block.columns.map((one, at) => (
                  <td key={at}>
                    <span className={classes.inRow}>
                      <NativeSelect
                        size="xs"
                        aria-label={`Column ${at + 1} stands`}
                        value={one.align}
                        data={[
                          { value: "start", label: "words" },
                          { value: "end", label: "numbers" },
                        ]}
                        onChange={(event) =>
                          column(at, { align: event.currentTarget.value as Column["align"] })
                        }
                      />
                      <ActionIcon
                        variant="subtle"
                        color="gray"
                        size="sm"
                        aria-label={`Remove column ${at + 1}`}
                        disabled={block.columns.length === 1}
                        onClick={() => set({ columns: block.columns.filter((_, index) => index !== at) })}
                      >
                        <IconX size={13} />
                      </ActionIcon>
                    </span>
                  </td>
                ))}
              </tr>
            </tfoot>
          )}
        </table>
      </div>
      <Faults problems={problems.filter((one) => /\.(listed|columns)$/.test(one.part))} />
      {may && (
        <div className={`${classes.inRow} ${classes.whenHere}`}>
          {block.columns.length < MOST_COLUMNS &&
            unused.map((part) => (
              <Button
                key={part.key}
                size="compact-xs"
                onClick={() => set({ columns: [...block.columns, columnFor(block, part)] })}
              >
                + {part.label}
              </Button>
            ))}
        </div>
      )}
      <TextInput
        size="xs"
        mt={6}
        aria-label="For whoever has none"
        leftSection={<span className="faint">with none:</span>}
        leftSectionWidth={76}
        placeholder="nothing stands there"
        value={textOf(block.otherwise)}
        onChange={(event) => set({ otherwise: withText(block.otherwise, event.currentTarget.value) })}
      />
    </NodeViewWrapper>
  );
}
