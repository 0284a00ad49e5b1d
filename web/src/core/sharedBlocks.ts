/** Blocks that are written in one place and stand in several messages. */
import type { BlockOf, Content } from "./content";

/** A shared block as it stands in words in a language: in that language where it has it, else as its main words. */
export function sharedBlock(
  id: string,
  shared: { id: number; name: string; content: Content },
  language: string,
): BlockOf<"shared"> {
  const { blocks } = shared.content.others.find((one) => one.language === language) ?? shared.content;
  return { id, kind: "shared", message_id: shared.id, name: shared.name, blocks };
}
