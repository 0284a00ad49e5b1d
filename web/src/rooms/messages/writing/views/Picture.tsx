import { Checkbox, NativeSelect } from "@mantine/core";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import type { BlockOf } from "../../../../core/content";
import { NumberField } from "../../../../ui";
import { useWriting } from "../context";
import { LineEditor } from "../LineEditor";
import { hereOf, PictureChooser } from "../PictureChooser";
import { repeatedAt } from "../places";
import { useProblemsAt } from "../problems";
import classes from "./views.module.css";

/** A picture: where it comes from, what is on it, how wide it is. */
export function PictureView({ editor, getPos, node, selected, updateAttributes }: NodeViewProps) {
  const block = node.attrs.block as BlockOf<"picture">;
  const set = (change: Partial<BlockOf<"picture">>) => updateAttributes({ block: { ...block, ...change } });
  const within = repeatedAt(editor.state.doc.resolve(getPos() ?? 0));
  const here = hereOf(block.address);
  const { may } = useWriting();
  const address = useProblemsAt(editor, getPos, "address");
  const alt = useProblemsAt(editor, getPos, "alt");
  const link = useProblemsAt(editor, getPos, "link");
  return (
    <NodeViewWrapper className={classes.setting} data-selected={selected || undefined}>
      <b className={classes.kind}>Picture</b>
      {here && <img className={classes.shown} src={here} alt={block.alt} style={{ maxWidth: block.width }} />}
      {may && (
        <PictureChooser
          onPicture={(picture) =>
            set({ address: picture.address, width: Math.min(544, Math.max(8, picture.width)) })
          }
        />
      )}
      <div className={classes.form}>
        <span>comes from</span>
        <div>
          <LineEditor
            label="Address of the picture"
            code
            value={block.address}
            within={within}
            problems={address}
            onChange={(next) => set({ address: next })}
          />
          {(here || block.embedded) && (
            <Checkbox
              mt={6}
              size="xs"
              label="Goes along with every message; else readers fetch it"
              checked={block.embedded ?? false}
              onChange={(event) => set({ embedded: event.currentTarget.checked })}
            />
          )}
        </div>
        <span>shows</span>
        <div>
          {!block.ornament && (
            <LineEditor
              label="What is on the picture, for who does not see it"
              placeholder="what is on it, for who does not see it"
              value={block.alt}
              within={within}
              problems={alt}
              onChange={(next) => set({ alt: next })}
            />
          )}
          <Checkbox
            mt={6}
            size="xs"
            label="An ornament: nothing is lost without it"
            checked={block.ornament}
            onChange={(event) => set({ ornament: event.currentTarget.checked })}
          />
        </div>
        <span>leads to</span>
        <LineEditor
          label="Where a click on the picture leads"
          placeholder="nowhere"
          code
          value={block.link}
          within={within}
          problems={link}
          onChange={(next) => set({ link: next })}
        />
        <span>wide</span>
        <div className={classes.inRow}>
          <NumberField
            size="xs"
            aria-label="Width in pixels"
            whole
            value={block.width}
            min={8}
            max={600}
            onNumber={(width) => set({ width })}
          />
          <span className="faint">pixels</span>
          <NativeSelect
            size="xs"
            aria-label="Where it stands"
            value={block.align}
            data={[
              { value: "start", label: "at the side" },
              { value: "centre", label: "in the middle" },
            ]}
            onChange={(event) => set({ align: event.currentTarget.value as "start" | "centre" })}
          />
        </div>
      </div>
    </NodeViewWrapper>
  );
}
