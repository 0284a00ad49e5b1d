/** An id that tells a block from those that are made at the same time elsewhere. */
export function someId(): string {
  return [...crypto.getRandomValues(new Uint8Array(6))]
    .map((one) => one.toString(16).padStart(2, "0"))
    .join("");
}
