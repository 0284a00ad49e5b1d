/** Keeps what is edited: one request at a time, always the newest state, and a collision is merged by part. */
import { type Choice, type Clash, merge, type Parts, same } from "./merge";

/** A document as it is kept; the revision goes back with a change. */
export interface Kept<Doc> {
  doc: Doc;
  revision: number;
}

/** Somebody was quicker; this is how it stands now. */
export class Collision<Doc> extends Error {
  constructor(
    readonly theirs: Kept<Doc>,
    words: string,
  ) {
    super(words);
  }
}

/** It cannot be kept as it is; what was typed stays. */
export class Refused extends Error {
  constructor(
    words: string,
    readonly field = "",
  ) {
    super(words);
  }
}

/** Nobody is signed in any more. */
export class SignedOut extends Error {}

/** How it stands with what is edited. */
export type Standing =
  | { kind: "same" }
  | { kind: "waiting" }
  | { kind: "saving" }
  | { kind: "saved"; at: number }
  | { kind: "failed"; words: string }
  | { kind: "refused"; words: string; field: string }
  | { kind: "signed_out" }
  | { kind: "clash"; words: string; clashes: Clash[] };

/** Do it after so many milliseconds; what comes back calls it off. */
export type After = (milliseconds: number, act: () => void) => () => void;

export interface KeeperOptions<Doc> {
  parts: Parts<Doc>;
  /** Throws Collision, Refused, SignedOut; anything else is tried again. */
  send: (doc: Doc, kept: Kept<Doc>) => Promise<Kept<Doc>>;
  after: After;
  now: () => number;
  /** Milliseconds of no typing before it is sent. */
  delay?: number;
}

const DELAY = 600;
const FIRST_RETRY = 1_000;
const LAST_RETRY = 30_000;

export class Keeper<Doc> {
  private kept: Kept<Doc>;
  private doc: Doc;
  private stands: Standing = { kind: "same" };
  private theirs: Kept<Doc> | undefined;
  private choices: Record<string, Choice> = {};
  private inFlight: Promise<void> | undefined;
  private held = false;
  private retry = FIRST_RETRY;
  private callOff: () => void = () => {};
  private readonly heard = new Set<() => void>();

  /** `mine` is what was edited already, from what is kept. */
  constructor(
    kept: Kept<Doc>,
    private readonly options: KeeperOptions<Doc>,
    mine: Doc = kept.doc,
  ) {
    this.kept = kept;
    this.doc = mine;
    if (this.differs) this.later(0);
  }

  get mine(): Doc {
    return this.doc;
  }

  get standing(): Standing {
    return this.stands;
  }

  /** Is there something that is not kept yet? */
  get differs(): boolean {
    return !same(this.doc, this.kept.doc);
  }

  get revision(): number {
    return this.kept.revision;
  }

  /** What is kept, as it was last told. */
  get keptDoc(): Doc {
    return this.kept.doc;
  }

  /** Hear of every change. */
  readonly subscribe = (listen: () => void): (() => void) => {
    this.heard.add(listen);
    return () => this.heard.delete(listen);
  };

  edit(doc: Doc): void {
    this.doc = doc;
    if (this.theirs) this.look();
    else if (this.differs) this.later(this.options.delay ?? DELAY);
    else if (!this.inFlight) {
      this.callOff();
      this.stand({ kind: "same" });
    }
    this.tell();
  }

  /** Keep it now. Resolves when nothing is under way any more, kept or not. */
  async flush(): Promise<void> {
    this.callOff();
    // Whoever else waited for it may have sent something already.
    while (this.inFlight) await this.inFlight;
    if (!this.differs || this.theirs || this.held) return;
    this.inFlight = this.sendNewest();
    await this.inFlight;
  }

  /** Let nothing be sent until `go`; resolves when what was under way is answered. */
  async hold(): Promise<void> {
    this.held = true;
    this.callOff();
    await this.inFlight;
  }

  /** Go on, from `kept` if it was kept in another way meanwhile. */
  go(kept?: Kept<Doc>): void {
    this.held = false;
    if (kept) this.kept = kept;
    if (this.differs) this.later(0);
    else this.stand({ kind: "same" });
    this.tell();
  }

  /** How it stands on the server, heard of in another way. What is edited here stays. */
  took(kept: Kept<Doc>): void {
    if (kept.revision <= this.kept.revision || this.inFlight || this.held || this.theirs) return;
    if (this.differs) this.meet(kept, "");
    else {
      this.kept = kept;
      this.doc = kept.doc;
    }
    this.tell();
  }

  /** What was edited is given up for `doc`; a clash is over with it. */
  drop(doc: Doc): void {
    if (this.theirs) this.kept = this.theirs;
    this.theirs = undefined;
    this.choices = {};
    this.edit(doc);
  }

  /** Decide one part of a clash. */
  decide(key: string, choice: Choice): void {
    this.choices = { ...this.choices, [key]: choice };
    this.look();
    this.tell();
  }

  private look(): void {
    const { theirs } = this;
    if (!theirs) return;
    const merged = merge(this.options.parts, this.kept.doc, this.doc, theirs.doc, this.choices);
    if (merged.clashes.length > 0) {
      const words = this.stands.kind === "clash" ? this.stands.words : "";
      this.stand({ kind: "clash", words, clashes: merged.clashes });
      return;
    }
    this.kept = theirs;
    this.doc = merged.doc;
    this.theirs = undefined;
    this.choices = {};
    if (this.differs) this.later(0);
    else this.stand({ kind: "saved", at: this.options.now() });
  }

  private meet(theirs: Kept<Doc>, words: string): void {
    this.theirs = theirs;
    this.stand({ kind: "clash", words, clashes: [] });
    this.look();
  }

  private later(delay: number): void {
    this.callOff();
    this.stand({ kind: "waiting" });
    if (this.held) return;
    this.callOff = this.options.after(delay, () => void this.flush());
  }

  private async sendNewest(): Promise<void> {
    const { doc, kept } = this;
    this.stand({ kind: "saving" });
    this.tell();
    try {
      const now = await this.options.send(doc, kept);
      // What the server made of it is shown, unless it was edited on meanwhile.
      if (same(this.doc, doc)) this.doc = now.doc;
      this.kept = now;
      this.retry = FIRST_RETRY;
      this.inFlight = undefined;
      if (this.differs) this.later(0);
      else this.stand({ kind: "saved", at: this.options.now() });
    } catch (fault) {
      this.inFlight = undefined;
      this.failed(fault, doc);
    }
    this.tell();
  }

  private failed(fault: unknown, sent: Doc): void {
    const words = fault instanceof Error ? fault.message : String(fault);
    if (fault instanceof Collision) this.meet(fault.theirs, words);
    else if (fault instanceof SignedOut) this.stand({ kind: "signed_out" });
    // What was typed since may be all right.
    else if (fault instanceof Refused && !same(this.doc, sent)) this.later(0);
    else if (fault instanceof Refused) this.stand({ kind: "refused", words, field: fault.field });
    else {
      this.later(this.retry);
      this.retry = Math.min(LAST_RETRY, this.retry * 2);
      this.stand({ kind: "failed", words });
    }
  }

  private stand(next: Standing): void {
    this.stands = next;
  }

  private tell(): void {
    for (const listen of this.heard) listen();
  }
}
