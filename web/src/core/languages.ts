/** A message in several languages: the main words, and others that follow them. Nothing is changed in place. */
import { type Compared, compared } from "./comparing";
import type { Content } from "./content";

export type Other = Content["others"][number];

/** The words in one language as a message of their own: the main ones, or those of `others[at]`. */
export function wordsIn(content: Content, at: number | undefined): Content {
  const other = at === undefined ? undefined : content.others[at];
  if (!other) return content;
  const { language, subject, preheader, blocks } = other;
  return { ...content, language, subject, preheader, blocks };
}

/** The message with the words in one language as they are in `next`. */
export function withWords(content: Content, at: number | undefined, next: Content): Content {
  if (at === undefined || !content.others[at]) return next;
  const { subject, preheader, blocks } = next;
  const others = content.others.map((one, index) =>
    index === at ? { ...one, subject, preheader, blocks } : one,
  );
  return { ...content, others };
}

/** The message with its main words in another language; what went with them goes with them still. */
export function withMainLanguage(content: Content, language: string): Content {
  const attachments = content.attachments.map((one) =>
    one.language === content.language ? { ...one, language } : one,
  );
  return { ...content, language, attachments };
}

/** The message with another language, which begins with the main words. */
export function withLanguage(content: Content, language: string): Content {
  const { subject, preheader, blocks } = content;
  const basis = { subject, preheader, blocks };
  return { ...content, others: [...content.others, { language, subject, preheader, blocks, basis }] };
}

export function withoutLanguage(content: Content, at: number): Content {
  return { ...content, others: content.others.filter((_, index) => index !== at) };
}

/** The message with one language said to follow the main words as they are now. */
export function following(content: Content, at: number): Content {
  const { subject, preheader, blocks } = content;
  const others = content.others.map((one, index) =>
    index === at ? { ...one, basis: { subject, preheader, blocks } } : one,
  );
  return { ...content, others };
}

/** What the main words changed since a version in another language last followed them. */
export function behind(content: Content, other: Other): Compared[] {
  if (!other.basis) return [];
  const main = { ...content, language: "", needed: [], others: [] };
  return compared({ ...main, ...other.basis }, main);
}

/** The criteria of those among some who read a language. */
export function readersOf(criteria: string, language: string): string {
  if (!language) return criteria;
  const reads = `language starts with "${language}"`;
  return criteria.trim() === "everyone" || !criteria.trim() ? reads : `(${criteria}) and ${reads}`;
}
