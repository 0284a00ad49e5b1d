import { type FieldShape, type Item, itemsOf, type ListShape, listText } from "../../../../core/values";
import { ListInput } from "./ListInput";
import { PlainInput, type PlainInputProps } from "./PlainInput";

interface ValueInputProps extends PlainInputProps {
  field: FieldShape & { parts?: FieldShape[] };
}

/** An input for a value of any type. */
export function ValueInput(props: ValueInputProps) {
  const { field, text, onText } = props;
  if (field.type !== "list") return <PlainInput {...props} />;
  const list = field as ListShape;
  return (
    <ListInput field={list} items={readItems(text, list)} onItems={(items) => onText(listText(items))} />
  );
}

function readItems(text: string, field: ListShape): Item[] {
  try {
    return itemsOf(JSON.parse(text || "[]"), field.parts);
  } catch {
    return [];
  }
}
