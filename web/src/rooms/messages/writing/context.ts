/** What every part of the editor knows. */
import type { Editor } from "@tiptap/core";
import { createContext, useContext } from "react";
import type { Schemas } from "../../../api";
import type { Readers } from "../../../core/branches";
import type { LabelOf, Repeated } from "../../../core/writing";

export interface Writing {
  vocabulary: Schemas["Vocabulary"];
  labelOf: LabelOf;
  /** Are inlays shown as text? */
  asText: boolean;
  may: boolean;
  /** Whose values are shown as examples; 0 where nobody is looked at. */
  contactId: number;
  language: string;
  /** Is it a shared block that is written? It holds no other. */
  shared: boolean;
  /** Are blanks counted among those who get it? Else among all contacts. */
  ofReaders: boolean;
  /** How many read each branch of blocks for some people only, by the block's id; undefined where nobody knows. */
  readers: Readers | undefined;
  /** An editor got the caret: what is inserted goes there. */
  onActive: (editor: Editor, within?: Repeated) => void;
}

const Context = createContext<Writing | undefined>(undefined);

export const WritingProvider = Context.Provider;

export function useWriting(): Writing {
  const writing = useContext(Context);
  if (!writing) throw new Error("outside of the editor");
  return writing;
}
