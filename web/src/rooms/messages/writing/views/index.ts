/** How blocks look in the editor, where that is more than their words: one row for each node. */
import type { Node } from "@tiptap/core";
import { ReactNodeViewRenderer } from "@tiptap/react";
import type { ComponentType } from "react";
import { ButtonView } from "./Buttons";
import { EachView } from "./Each";
import { HtmlView } from "./Html";
import { ArmView, OnlyView, OtherwiseView } from "./Only";
import { PictureView } from "./Picture";
import { SharedView } from "./Shared";
import { ColumnsView, DividerView, KeptView, SpaceView } from "./Small";
import { TableView } from "./Table";

// biome-ignore lint/suspicious/noExplicitAny: Tiptap's own type for a component of any node
const VIEWS: Record<string, ComponentType<any>> = {
  arm: ArmView,
  button: ButtonView,
  buttons: ButtonView,
  columns: ColumnsView,
  divider: DividerView,
  each: EachView,
  html: HtmlView,
  kept: KeptView,
  only: OnlyView,
  otherwise: OtherwiseView,
  picture: PictureView,
  shared: SharedView,
  space: SpaceView,
  table: TableView,
};

export const SHEET_VIEWS: Record<string, (node: Node) => Node> = Object.fromEntries(
  Object.entries(VIEWS).map(([name, view]) => [
    name,
    (node: Node) => node.extend({ addNodeView: () => ReactNodeViewRenderer(view) }),
  ]),
);
