/** The message document as the server describes it. */
import type { components } from "./schema";

export type Content = components["schemas"]["MessageContent"];
/** `id` tells a block from the others wherever it stands. */
export type Block = Content["blocks"][number];
export type BlockOf<Kind extends Block["kind"]> = Extract<Block, { kind: Kind }>;
