/** A list with one thing moved by so many places; as it was where there is no place to go. */
export function moved<Thing>(list: readonly Thing[], thing: Thing, by: number): Thing[] {
  const from = list.indexOf(thing);
  const to = from + by;
  if (from < 0 || to < 0 || to >= list.length) return [...list];
  const rest = list.filter((one) => one !== thing);
  return [...rest.slice(0, to), thing, ...rest.slice(to)];
}
