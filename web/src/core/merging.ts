/** Contacts laid side by side before they become one. */
export interface Compared {
  id: number;
  record: Record<string, unknown>;
}

const same = (one: unknown, other: unknown) => JSON.stringify(one ?? null) === JSON.stringify(other ?? null);

/** The fields in which they differ, in the order of the first record that has them. */
export function differingKeys(people: Compared[]): string[] {
  const keys = [...new Set(people.flatMap((one) => Object.keys(one.record)))];
  return keys.filter((key) => people.some((one) => !same(one.record[key], people[0]?.record[key])));
}

/** Whose value of a field is taken: what was chosen, else the kept one's, else the first that is not blank. */
export function takenFrom(
  people: Compared[],
  kept: number,
  choices: Record<string, number>,
  key: string,
): number | undefined {
  if (choices[key] !== undefined) return choices[key];
  const stays = people.find((one) => one.id === kept);
  const order = [...(stays ? [stays] : []), ...people.filter((one) => one.id !== kept)];
  return order.find((one) => one.record[key] !== undefined && one.record[key] !== null)?.id;
}
