/** The addresses in what somebody typed: between commas, semicolons or room; each once. */
export function addressesTyped(typed: string): string[] {
  return [...new Set(typed.split(/[\s,;]+/).filter(Boolean))];
}
