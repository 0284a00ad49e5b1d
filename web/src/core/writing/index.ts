/** Writing a message: its blocks as the sheet of an editor, and its inlays. */
export {
  chipWords,
  type Inlay,
  type LabelOf,
  piecesOf,
  type Role,
  readInlay,
  sayPlainly,
  unpaired,
  writeInlay,
} from "./inlays";
export { KINDS, kindOf, kindOfNode, sayBlock } from "./kinds";
export { addressesIn, linked, wholeAddress } from "./links";
export { columnFor, columnsFor, freshBlock, MOST_COLUMNS } from "./lists";
export {
  inlineOf,
  lineOf,
  lineOfNode,
  type Sheet,
  type SheetJson,
} from "./nodes";
export {
  type FieldOption,
  fieldOptions,
  foundOptions,
  labelsOf,
  type Repeated,
  UNFINISHED,
  variableFor,
} from "./options";
export { blockOf, blocksOf, sheetOf, sheetOfBlock } from "./sheet";
