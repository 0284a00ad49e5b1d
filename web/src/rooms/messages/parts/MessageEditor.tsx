import { Button, MultiSelect, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../api";
import {
  type Block,
  type Content,
  inlayFor,
  longest,
  moveBlock,
  newBlock,
  partOf,
  toType,
  WRITTEN,
  withPart,
} from "../../../core/message";
import { tooLong } from "../../../core/words";
import { BlockCard } from "./BlockCard";
import { FieldPicker } from "./FieldPicker";
import classes from "./MessageEditor.module.css";
import { PartInput, type PartProps } from "./PartInput";

interface MessageEditorProps {
  content: Content;
  problems: Schemas["PartProblemView"][];
  onContent: (content: Content) => void;
}

const KINDS = Object.entries(WRITTEN) as [keyof typeof WRITTEN, string][];

/** The words of a message: subject, preheader and blocks, with places for each person's own data. */
export function MessageEditor({ content, problems, onContent }: MessageEditorProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const own = vocabulary?.languages.find((one) => one.code === vocabulary.locale.slice(0, 2))?.name;
  const [part, setPart] = useState("subject");
  const [picking, setPicking] = useState(false);
  const [removed, setRemoved] = useState<{ block: Block; index: number }>();
  const caret = useRef<{ part: string; from: number; to: number }>({ part: "subject", from: 0, to: 0 });

  function insert(field: Schemas["FieldView"]) {
    const at = caret.current;
    const text = partOf(content, at.part);
    // An @ that was typed to call the picker gives way to what is inserted.
    const from = text[at.from - 1] === "@" ? at.from - 1 : at.from;
    const inlay = inlayFor(field.key, field.type, field.blank);
    onContent(withPart(content, at.part, text.slice(0, from) + inlay + text.slice(at.to)));
    setPicking(false);
    typeAt(at.part, ...toType(inlay, from));
  }

  function open(opened: boolean) {
    setPicking(opened);
    // Whoever chose nothing writes on where they were; a typed @ stays.
    if (!opened) typeAt(caret.current.part, caret.current.to, caret.current.to);
  }

  const props = (name: string): PartProps => ({
    part: name,
    value: partOf(content, name),
    tooLong: tooLong(partOf(content, name), longest(content, name)),
    problems: problems.filter((one) => one.part === name),
    onFocus: () => setPart(name),
    onCaret: (from, to) => {
      caret.current = { part: name, from, to };
    },
    onAt: () => setPicking(true),
    onChange: (value) => onContent(withPart(content, name, value)),
  });

  function remove(index: number) {
    const block = content.blocks[index];
    if (block) setRemoved({ block, index });
    onContent({ ...content, blocks: content.blocks.filter((_, at) => at !== index) });
  }

  return (
    <div className={classes.editor}>
      <div className={classes.tools}>
        <FieldPicker opened={picking} onOpened={open} onPick={insert} into={part} />
        {KINDS.map(([kind, words]) => (
          <Button
            key={kind}
            onClick={() => onContent({ ...content, blocks: [...content.blocks, newBlock(kind)] })}
          >
            + {words}
          </Button>
        ))}
        {removed && (
          <Button
            variant="light"
            onClick={() => {
              onContent({ ...content, blocks: content.blocks.toSpliced(removed.index, 0, removed.block) });
              setRemoved(undefined);
            }}
          >
            Undo removing
          </Button>
        )}
      </div>
      <PartInput label="Subject" placeholder="What stands in their mailbox" {...props("subject")} />
      <PartInput
        label="Preheader"
        placeholder="The line beside the subject, if you like"
        {...props("preheader")}
      />
      <div className={classes.blocks}>
        {content.blocks.map((block, index) => (
          <BlockCard
            key={block.id}
            block={block}
            index={index}
            last={index === content.blocks.length - 1}
            props={props}
            onMove={(step) => onContent(moveBlock(content, index, step))}
            onRemove={() => remove(index)}
          />
        ))}
      </div>
      <NativeSelect
        label="Language"
        description="Dates, amounts and the footer are written in it"
        value={content.language}
        data={[
          { value: "", label: `the organisation's${own ? `, ${own}` : ""}` },
          ...(vocabulary?.languages ?? []).map((one) => ({ value: one.code, label: one.name })),
        ]}
        onChange={(event) => onContent({ ...content, language: event.currentTarget.value })}
      />
      <MultiSelect
        label="Required fields"
        description="Whoever lacks one of these is held by a gate and named there"
        placeholder={content.needed.length ? "" : "nothing in particular"}
        data={needable(vocabulary?.fields ?? [], content.needed)}
        value={content.needed}
        searchable
        onChange={(needed) => onContent({ ...content, needed })}
      />
      {problems
        .filter((one) => ["blocks", "needed", "language"].includes(one.part))
        .map((one) => (
          <p key={one.problem.code} className={classes.whole}>
            {one.problem.message}
          </p>
        ))}
    </div>
  );
}

/** Go on typing in a part, over what is selected there. */
function typeAt(part: string, from: number, to: number) {
  requestAnimationFrame(() => {
    const box = document.querySelector<HTMLTextAreaElement>(`[data-part="${part}"]`);
    box?.focus();
    box?.setSelectionRange(from, to);
  });
}

/** The fields that can be asked for, besides the address that everybody has; one that is gone stays to be taken out. */
function needable(fields: Schemas["FieldView"][], needed: string[]) {
  const there = fields.filter((one) => one.key !== "address");
  const gone = needed.filter((key) => fields.length > 0 && !fields.some((one) => one.key === key));
  return [
    ...there.map((one) => ({ value: one.key, label: one.label })),
    ...gone.map((key) => ({ value: key, label: `${key}?` })),
  ];
}
