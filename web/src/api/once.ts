/** Keys for changes: one that is sent again, since its answer is not there yet or was lost, goes under the same key. */

/** What only asks, by a POST since it is long. */
const ASKING = /^\/api\/(criteria|clearance|lens)\b|\/(preview|misfits\.csv)$/;

interface Sent {
  key: string;
  path: string;
  /** The answer was lost: nobody knows whether it was done. */
  lost: boolean;
}

export class Keys {
  private readonly sent = new Map<string, Sent>();

  constructor(private readonly make: () => string) {}

  /** The key of a change; undefined for what changes nothing. */
  keyFor(method: string, path: string, body: string): string | undefined {
    if (method === "GET" || ASKING.test(path)) return undefined;
    const what = `${method} ${path} ${body}`;
    const known = this.sent.get(what);
    if (known) return known.key;
    const key = this.make();
    this.sent.set(what, { key, path, lost: false });
    return key;
  }

  /** There is an answer. The next time it is meant anew, and so is what was lost on the way to the same place. */
  answered(key: string): void {
    const one = [...this.sent].find(([, sent]) => sent.key === key);
    if (!one) return;
    const [, { path }] = one;
    for (const [what, sent] of this.sent) {
      if (sent.key === key || (sent.lost && sent.path === path)) this.sent.delete(what);
    }
  }

  /** The answer was lost. */
  lost(key: string): void {
    for (const sent of this.sent.values()) if (sent.key === key) sent.lost = true;
  }
}
