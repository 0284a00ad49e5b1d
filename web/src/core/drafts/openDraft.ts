/** What is changed and not saved: it is kept on the server while it is written, and becomes true when it is saved. */
import { Collision, Keeper, type KeeperOptions, type Kept, SignedOut, type Standing } from "./keeper";
import { type Choice, merge, type Parts, same } from "./merge";

/** A draft as the server keeps it: `body` was made from `base`. Revision 0: there is none. */
export interface KeptDraft<Doc> {
  base: Kept<Doc>;
  body: Doc;
  revision: number;
}

export interface OpenDraftOptions<Doc> {
  parts: Parts<Doc>;
  /** Save it for everybody. Throws Collision, Refused, SignedOut. */
  save: (doc: Doc, revision: number) => Promise<Kept<Doc>>;
  /** Keep a draft; gives its new revision. Throws Collision, Refused, SignedOut. */
  keep: (draft: KeptDraft<Doc>) => Promise<number>;
  /** Forget the draft. */
  forget: () => Promise<void>;
  /** What this browser has that the server has not: told at each change, undefined for nothing. */
  mirror: (draft: Unkept<Doc> | undefined) => void;
  after: KeeperOptions<Doc>["after"];
  now: KeeperOptions<Doc>["now"];
}

/** A draft that did not get to the server, and what was kept there when it was written. */
export interface Unkept<Doc> {
  base: Kept<Doc>;
  kept: Kept<Doc>;
  body: Doc;
}

export interface DraftState<Doc> {
  doc: Doc;
  /** Is it something else than what is saved? */
  changed: boolean;
  /** How it stands with keeping the draft, or with a clash that is to be decided. */
  standing: Standing;
  saving: boolean;
  /** Why it could not be saved. */
  fault: string | undefined;
}

/** More collisions in a row than two people can make. */
const MOST_TRIES = 5;

export class OpenDraft<Doc> {
  private saved: Kept<Doc>;
  private readonly keeper: Keeper<Doc>;
  private theirs: Kept<Doc> | undefined;
  private choices: Record<string, Choice> = {};
  private words = "";
  private saving = false;
  private fault: string | undefined;
  private state: DraftState<Doc>;
  private readonly heard = new Set<() => void>();

  /** From what is saved now, the draft on the server, and what only this browser has. */
  constructor(
    saved: Kept<Doc>,
    private readonly options: OpenDraftOptions<Doc>,
    kept?: KeptDraft<Doc>,
    unkept?: Unkept<Doc>,
  ) {
    const draft = kept ?? { base: saved, body: saved.doc, revision: 0 };
    this.saved = unkept?.base ?? draft.base;
    this.keeper = new Keeper(
      unkept?.kept ?? { doc: draft.body, revision: draft.revision },
      {
        parts: options.parts,
        after: options.after,
        now: options.now,
        send: (doc, was) => this.send(doc, was),
      },
      unkept?.body ?? draft.body,
    );
    if (this.saved.revision !== saved.revision) this.meet(saved, "This was saved anew meanwhile.");
    this.state = this.look();
    this.keeper.subscribe(() => this.tell());
  }

  readonly snapshot = (): DraftState<Doc> => this.state;

  readonly subscribe = (listen: () => void): (() => void) => {
    this.heard.add(listen);
    return () => this.heard.delete(listen);
  };

  /** Is something under way that would be lost with this page? */
  get busy(): boolean {
    return this.saving || !["same", "saved", "clash"].includes(this.keeper.standing.kind);
  }

  edit(doc: Doc): void {
    this.fault = undefined;
    this.keeper.edit(doc);
  }

  /** Keep it now. */
  flush(): Promise<void> {
    return this.keeper.flush();
  }

  /** How it is saved, heard of in another way: what is changed here is merged with it. */
  took(saved: Kept<Doc>): void {
    if (saved.revision <= this.saved.revision || this.saving || this.theirs) return;
    if (same(this.keeper.mine, this.saved.doc)) this.becomes(saved);
    else this.meet(saved, "This was saved anew meanwhile.");
    this.tell();
  }

  /** Save it for everybody. True when it is done. */
  async save(): Promise<boolean> {
    if (this.saving || this.theirs) return false;
    this.saving = true;
    this.fault = undefined;
    this.tell();
    await this.keeper.hold();
    let done = false;
    try {
      done = await this.saveNewest();
    } catch (fault) {
      this.fault =
        fault instanceof SignedOut
          ? "You are signed out. What you wrote is kept; sign in and save it."
          : fault instanceof Error
            ? fault.message
            : String(fault);
      this.keeper.go();
    }
    this.saving = false;
    this.tell();
    return done;
  }

  /** Go back to what is saved. Gives what was thrown away, so that it can be brought back. */
  throwAway(): Doc {
    const gone = this.keeper.mine;
    const now = this.theirs ?? this.saved;
    this.theirs = undefined;
    this.choices = {};
    this.fault = undefined;
    this.saved = now;
    this.keeper.drop(now.doc);
    void this.keeper.flush();
    this.tell();
    return gone;
  }

  /** Decide one part of a clash. */
  decide(key: string, choice: Choice): void {
    if (this.theirs) {
      this.choices = { ...this.choices, [key]: choice };
      this.settle();
      this.tell();
    } else this.keeper.decide(key, choice);
  }

  private async saveNewest(): Promise<boolean> {
    for (let tries = 0; tries < MOST_TRIES; tries += 1) {
      const doc = this.keeper.mine;
      try {
        const now = await this.options.save(doc, this.saved.revision);
        const more = !same(this.keeper.mine, doc);
        this.saved = now;
        if (!more) this.keeper.edit(now.doc);
        // The server forgets the draft with the saving.
        this.keeper.go({ doc: now.doc, revision: 0 });
        return true;
      } catch (fault) {
        if (!(fault instanceof Collision)) throw fault;
        this.meet(fault.theirs as Kept<Doc>, fault.message);
        if (this.theirs) break;
      }
    }
    this.keeper.go();
    return false;
  }

  private meet(theirs: Kept<Doc>, words: string): void {
    this.theirs = theirs;
    this.words = words;
    this.choices = {};
    this.settle();
  }

  private settle(): void {
    const { theirs } = this;
    if (!theirs) return;
    const merged = merge(this.options.parts, this.saved.doc, this.keeper.mine, theirs.doc, this.choices);
    if (merged.clashes.length > 0) return;
    this.theirs = undefined;
    this.choices = {};
    this.saved = theirs;
    this.keeper.edit(merged.doc);
  }

  private becomes(saved: Kept<Doc>): void {
    this.saved = saved;
    this.keeper.edit(saved.doc);
    void this.keeper.flush();
  }

  private async send(doc: Doc, kept: Kept<Doc>): Promise<Kept<Doc>> {
    if (same(doc, this.saved.doc)) {
      if (kept.revision > 0) await this.options.forget();
      return { doc, revision: 0 };
    }
    const revision = await this.options.keep({ base: this.saved, body: doc, revision: kept.revision });
    return { doc, revision };
  }

  private look(): DraftState<Doc> {
    const doc = this.keeper.mine;
    let standing = this.keeper.standing;
    if (this.theirs) {
      const { clashes } = merge(this.options.parts, this.saved.doc, doc, this.theirs.doc, this.choices);
      standing = { kind: "clash", words: this.words, clashes };
    }
    return {
      doc,
      changed: !same(doc, this.saved.doc),
      standing,
      saving: this.saving,
      fault: this.fault,
    };
  }

  private tell(): void {
    this.state = this.look();
    this.options.mirror(
      this.keeper.differs
        ? {
            base: this.saved,
            kept: { doc: this.keeper.keptDoc, revision: this.keeper.revision },
            body: this.keeper.mine,
          }
        : undefined,
    );
    for (const listen of this.heard) listen();
  }
}
