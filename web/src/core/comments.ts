/** What colleagues say of the words of a message, and the blocks that it is said of. */
import type { Block, Content } from "./content";
import { wordsIn } from "./languages";
import { KINDS, kindOf, sayBlock, sayPlainly } from "./writing";

/** A block that can be spoken of. */
export interface Spoken {
  id: string;
  /** What it says, in a line. */
  words: string;
  /** Where it stands: a part such as `blocks.2.arms.0.blocks.1`. */
  part: string;
}

/** As much of a block as tells it from others. */
const LONGEST = 80;

/** The blocks of a message's words in one language, those in others behind what holds them. */
export function spokenBlocks(content: Content, language: string): Spoken[] {
  return all(wordsIn(content, placeOf(content, language)).blocks, "blocks");
}

/** The place of a language among the others; undefined for the main words. */
function placeOf(content: Content, language: string): number | undefined {
  const at = content.others.findIndex((one) => one.language === language);
  return at < 0 ? undefined : at;
}

function all(blocks: readonly Block[], part: string): Spoken[] {
  return blocks.flatMap((block, at) => {
    const here = `${part}.${at}`;
    const own = block.id ? [{ id: block.id, words: quoteOf(block), part: here }] : [];
    return [...own, ...within(block, here)];
  });
}

function within(block: Block, part: string): Spoken[] {
  switch (block.kind) {
    case "only":
      return [
        ...block.arms.flatMap((arm, at) => all(arm.blocks, `${part}.arms.${at}.blocks`)),
        ...all(block.otherwise, `${part}.otherwise`),
      ];
    case "each":
      return [...all(block.blocks, `${part}.blocks`), ...all(block.otherwise, `${part}.otherwise`)];
    case "columns":
      return block.columns.flatMap((blocks, at) => all(blocks, `${part}.columns.${at}`));
    default:
      return [];
  }
}

function quoteOf(block: Block): string {
  const said = sayPlainly(sayBlock(block)).replace(/\s+/g, " ").trim();
  return said.slice(0, LONGEST) || (kindOf(block) ?? KINDS.paragraph).words;
}

/** The block that a part such as `blocks.2.arms.0.blocks.1.text` stands in; undefined where there is none. */
export function blockOfPart(content: Content, language: string, part: string): Spoken | undefined {
  return spokenBlocks(content, language).findLast((one) => `${part}.`.startsWith(`${one.part}.`));
}
