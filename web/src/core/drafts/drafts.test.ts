import { beforeEach, describe, expect, it } from "vitest";
import { EMPTY, MESSAGE_PARTS, type MessageDoc, someId } from "../message";
import { textOf, wordsOf } from "../passages";
import {
  Collision,
  fixedParts,
  Keeper,
  type Kept,
  type KeptDraft,
  member,
  merge,
  mergeOrder,
  OpenDraft,
  Refused,
  SignedOut,
  type Unkept,
} from ".";

interface Doc {
  name: string;
  town: string;
  tags: string;
}

const PARTS = fixedParts<Doc>([
  member("name", "Name"),
  member("town", "Town", String, (mine, theirs) => `${mine} ${theirs}`),
  member("tags", "Tags"),
]);
const FIRST: Doc = { name: "A", town: "Skarn", tags: "" };

/** A clock that stands until it is told to go on, and a server that answers when it is told to. */
function world<Answer>() {
  let acts: (() => void)[] = [];
  const sent: { resolve: (answer: Answer) => void; reject: (fault: Error) => void; what: unknown }[] = [];
  const settled = async () => {
    for (let turn = 0; turn < 20; turn += 1) await Promise.resolve();
  };
  return {
    sent,
    settled,
    after: (_: number, act: () => void) => {
      acts.push(act);
      return () => {
        acts = acts.filter((one) => one !== act);
      };
    },
    now: () => 7,
    async wait() {
      const due = acts;
      acts = [];
      for (const act of due) act();
      await settled();
    },
    send: (what: unknown) =>
      new Promise<Answer>((resolve, reject) => {
        sent.push({ resolve, reject, what });
      }),
    async answer(answer: Answer | Error) {
      const one = sent.shift();
      if (answer instanceof Error) one?.reject(answer);
      else one?.resolve(answer);
      await settled();
    },
  };
}

describe("what is kept while it is edited", () => {
  let server = world<Kept<Doc>>();
  let keeper: Keeper<Doc>;
  const kept = (doc: Partial<Doc>, revision: number): Kept<Doc> => ({ doc: { ...FIRST, ...doc }, revision });
  const edit = (doc: Partial<Doc>) => keeper.edit({ ...keeper.mine, ...doc });
  beforeEach(() => {
    server = world<Kept<Doc>>();
    keeper = new Keeper<Doc>(kept({}, 1), {
      parts: PARTS,
      after: server.after,
      now: server.now,
      send: (doc, was) => server.send({ doc, revision: was.revision }),
    });
  });

  it("goes one at a time, the newest with the newest revision; superseded states are never sent", async () => {
    edit({ name: "B" });
    expect(keeper.standing.kind).toBe("waiting");
    await server.wait();
    edit({ town: "Breccia" });
    edit({ town: "Marlby" });
    await server.wait();
    expect(server.sent.map((one) => one.what)).toEqual([{ doc: { ...FIRST, name: "B" }, revision: 1 }]);
    await server.answer(kept({ name: "B" }, 2));
    await server.wait();
    expect(server.sent.map((one) => one.what)).toEqual([
      { doc: { name: "B", town: "Marlby", tags: "" }, revision: 2 },
    ]);
    await server.answer(kept({ name: "B", town: "Marlby" }, 3));
    expect(keeper.standing).toEqual({ kind: "saved", at: 7 });
  });

  it("is sent once by two who want it kept now", async () => {
    edit({ name: "B" });
    void keeper.flush();
    edit({ town: "Breccia" });
    void keeper.flush();
    void keeper.flush();
    await server.answer(kept({ name: "B" }, 2));
    expect(server.sent.map((one) => one.what)).toEqual([
      { doc: { name: "B", town: "Breccia", tags: "" }, revision: 2 },
    ]);
  });

  it("is sent again when the server could not be reached, and nothing typed is lost by a refusal", async () => {
    edit({ name: "B" });
    await server.wait();
    await server.answer(new Error("away"));
    expect(keeper.standing).toEqual({ kind: "failed", words: "away" });
    await server.wait();
    await server.answer(new Refused("There is one already.", "name"));
    expect(keeper.standing).toEqual({ kind: "refused", words: "There is one already.", field: "name" });
    expect(keeper.mine.name).toBe("B");
    edit({ name: "C" });
    await server.wait();
    await server.answer(kept({ name: "C" }, 2));
    expect(keeper.standing.kind).toBe("saved");
  });

  it("waits when nobody is signed in any more", async () => {
    edit({ name: "B" });
    await server.wait();
    await server.answer(new SignedOut());
    expect(keeper.standing.kind).toBe("signed_out");
    expect(keeper.mine.name).toBe("B");
  });

  it("is merged with somebody else's when they changed other parts, and goes on by itself", async () => {
    edit({ name: "B" });
    await server.wait();
    await server.answer(new Collision(kept({ town: "Breccia" }, 5), "Ada changed this meanwhile."));
    expect(keeper.mine).toEqual({ name: "B", town: "Breccia", tags: "" });
    await server.wait();
    expect(server.sent[0]?.what).toEqual({ doc: keeper.mine, revision: 5 });
  });

  it("asks where both changed the same, sends nothing meanwhile, and does what was decided", async () => {
    edit({ name: "B", town: "Marlby" });
    await server.wait();
    await server.answer(
      new Collision(kept({ name: "Z", town: "Breccia", tags: "x" }, 5), "Ada was quicker."),
    );
    expect(keeper.standing).toEqual({
      kind: "clash",
      words: "Ada was quicker.",
      clashes: [
        { key: "name", words: "Name", mine: "B", theirs: "Z", canBoth: false },
        { key: "town", words: "Town", mine: "Marlby", theirs: "Breccia", canBoth: true },
      ],
    });
    edit({ tags: "y" });
    await server.wait();
    expect(server.sent).toEqual([]);
    keeper.decide("name", "theirs");
    keeper.decide("town", "both");
    keeper.decide("tags", "mine");
    expect(keeper.mine).toEqual({ name: "Z", town: "Marlby Breccia", tags: "y" });
    await server.wait();
    expect(server.sent[0]?.what).toEqual({ doc: keeper.mine, revision: 5 });
  });

  it("takes what is newer on the server where nothing was edited, and merges it where something was", async () => {
    keeper.took(kept({ town: "Breccia" }, 2));
    expect(keeper.mine.town).toBe("Breccia");
    edit({ name: "B" });
    keeper.took(kept({ town: "Marlby" }, 3));
    expect(keeper.mine).toEqual({ name: "B", town: "Marlby", tags: "" });
    keeper.took(kept({ name: "old" }, 2));
    expect(keeper.mine.name).toBe("B");
  });
});

describe("an open draft", () => {
  const saved = (doc: Partial<Doc>, revision: number): Kept<Doc> => ({ doc: { ...FIRST, ...doc }, revision });
  function open(now: Kept<Doc>, kept?: KeptDraft<Doc>, unkept?: Unkept<Doc>) {
    const keeps = world<number>();
    const saves = world<Kept<Doc>>();
    const log: string[] = [];
    let mirror: Unkept<Doc> | undefined;
    const draft = new OpenDraft<Doc>(
      now,
      {
        parts: PARTS,
        keep: (what) => keeps.send(what),
        forget: async () => {
          log.push("forgotten");
        },
        save: (doc, revision) => saves.send({ doc, revision }),
        mirror: (what) => {
          mirror = what;
        },
        after: keeps.after,
        now: keeps.now,
      },
      kept,
      unkept,
    );
    const edit = (doc: Partial<Doc>) => draft.edit({ ...draft.snapshot().doc, ...doc });
    return { draft, keeps, saves, log, edit, mirror: () => mirror };
  }

  it("is kept on the server while it is written, mirrored until then, and forgotten when nothing differs", async () => {
    const { draft, keeps, log, edit, mirror } = open(saved({}, 3));
    edit({ name: "B" });
    expect(draft.snapshot().changed).toBe(true);
    expect(mirror()?.body.name).toBe("B");
    await keeps.wait();
    expect(keeps.sent[0]?.what).toEqual({ base: saved({}, 3), body: { ...FIRST, name: "B" }, revision: 0 });
    await keeps.answer(1);
    expect(mirror()).toBeUndefined();
    edit({ name: "A" });
    expect(draft.snapshot().changed).toBe(false);
    await keeps.wait();
    expect(log).toEqual(["forgotten"]);
  });

  it("is saved after what was under way, and what is typed meanwhile becomes the next draft", async () => {
    const { draft, keeps, saves, edit } = open(saved({}, 3));
    edit({ name: "B" });
    await keeps.wait();
    const done = draft.save();
    expect(saves.sent).toEqual([]);
    await keeps.answer(1);
    expect(saves.sent[0]?.what).toEqual({ doc: { ...FIRST, name: "B" }, revision: 3 });
    edit({ town: "Marlby" });
    expect(await draft.save()).toBe(false);
    await saves.answer(saved({ name: "B" }, 4));
    expect(await done).toBe(true);
    expect(draft.snapshot()).toMatchObject({ changed: true, doc: { name: "B", town: "Marlby" } });
    await keeps.wait();
    expect(keeps.sent[0]?.what).toMatchObject({ base: { revision: 4 }, revision: 0 });
  });

  it("is merged by part when somebody saved meanwhile, and saved with theirs in it", async () => {
    const { draft, saves, edit } = open(saved({}, 3));
    edit({ name: "B" });
    const done = draft.save();
    await saves.settled();
    await saves.answer(new Collision(saved({ town: "Breccia" }, 4), "Ada changed this meanwhile."));
    expect(saves.sent[0]?.what).toEqual({ doc: { name: "B", town: "Breccia", tags: "" }, revision: 4 });
    await saves.answer(saved({ name: "B", town: "Breccia" }, 5));
    expect(await done).toBe(true);
  });

  it("asks about what both changed before it can be saved", async () => {
    const { draft, saves, edit } = open(saved({}, 3));
    edit({ name: "B" });
    const done = draft.save();
    await saves.settled();
    await saves.answer(new Collision(saved({ name: "Z" }, 4), "Ada changed this meanwhile."));
    expect(await done).toBe(false);
    expect(await draft.save()).toBe(false);
    expect(draft.snapshot().standing).toMatchObject({ kind: "clash", clashes: [{ mine: "B", theirs: "Z" }] });
    draft.decide("name", "mine");
    const again = draft.save();
    await saves.settled();
    expect(saves.sent[0]?.what).toEqual({ doc: { ...FIRST, name: "B" }, revision: 4 });
    await saves.answer(saved({ name: "B" }, 5));
    expect(await again).toBe(true);
    expect(draft.snapshot().changed).toBe(false);
  });

  it("comes back after a reload: from the server, from this browser, and beside what was saved since", async () => {
    const kept = { base: saved({}, 3), body: { ...FIRST, name: "B" }, revision: 2 };
    expect(open(saved({}, 3), kept).draft.snapshot()).toMatchObject({ changed: true, doc: { name: "B" } });
    const unkept = {
      base: saved({}, 3),
      kept: { doc: kept.body, revision: 2 },
      body: { ...FIRST, name: "B2" },
    };
    expect(open(saved({}, 3), kept, unkept).draft.snapshot().doc.name).toBe("B2");
    expect(open(saved({ town: "Breccia" }, 4), kept).draft.snapshot().doc).toEqual({
      name: "B",
      town: "Breccia",
      tags: "",
    });
    expect(open(saved({ name: "Z" }, 4), kept).draft.snapshot().standing.kind).toBe("clash");
  });

  it("is thrown away as a whole, and can be brought back", async () => {
    const { draft, edit } = open(saved({}, 3));
    edit({ name: "B", town: "Marlby" });
    const gone = draft.throwAway();
    expect(draft.snapshot().changed).toBe(false);
    draft.edit(gone);
    expect(draft.snapshot().doc).toEqual({ name: "B", town: "Marlby", tags: "" });
  });

  it("says why it could not be saved, and stays", async () => {
    const { draft, saves, edit } = open(saved({}, 3));
    edit({ name: "" });
    const done = draft.save();
    await saves.settled();
    await saves.answer(new Refused("Give it a name.", "name"));
    expect(await done).toBe(false);
    expect(draft.snapshot()).toMatchObject({ changed: true, fault: "Give it a name." });
  });
});

describe("two versions of a message", () => {
  const message = (subject: string, ...blocks: [string, string][]): MessageDoc => ({
    name: "Hall",
    content: {
      ...EMPTY,
      subject,
      blocks: blocks.map(([id, text]) => ({ id, kind: "paragraph", text: wordsOf(text), align: "start" })),
    },
  });
  const texts = (doc: MessageDoc) =>
    doc.content.blocks.map((block) => (block.kind === "paragraph" ? textOf(block.text) : block.kind));
  const base = message("S", ["a", "one"], ["b", "two"], ["c", "three"]);

  it("are merged by block: moved by one, written by the other, added and removed", () => {
    const mine = message("S", ["c", "three"], ["a", "one"], ["b", "two"], ["n", "new"]);
    const theirs = message("S2", ["a", "ONE"], ["c", "three"]);
    const { doc, clashes } = merge(MESSAGE_PARTS, base, mine, theirs);
    expect(clashes).toEqual([]);
    expect(doc.content.subject).toBe("S2");
    expect(texts(doc)).toEqual(["three", "ONE", "new"]);
  });

  it("clash where both wrote in one block, or one wrote in what the other removed; both can be kept", () => {
    const mine = message("S", ["a", "mine"], ["b", "two"], ["c", "three"]);
    const theirs = message("S", ["a", "theirs"], ["b", "two"], ["c", "three"]);
    expect(merge(MESSAGE_PARTS, base, mine, theirs).clashes).toMatchObject([
      { mine: "Paragraph: mine", theirs: "Paragraph: theirs" },
    ]);
    const both = merge(MESSAGE_PARTS, base, mine, theirs, { "block a": "both" }).doc;
    expect(texts(both)).toEqual(["mine", "theirs", "two", "three"]);
    expect(new Set(both.content.blocks.map((block) => block.id)).size).toBe(4);
    const gone = message("S", ["b", "two"], ["c", "three"]);
    expect(merge(MESSAGE_PARTS, base, mine, gone).clashes).toMatchObject([{ theirs: "" }]);
    expect(texts(merge(MESSAGE_PARTS, base, mine, gone, { "block a": "theirs" }).doc)).toEqual([
      "two",
      "three",
    ]);
    expect(texts(merge(MESSAGE_PARTS, base, gone, mine, { "block a": "theirs" }).doc)).toEqual([
      "mine",
      "two",
      "three",
    ]);
  });

  it("keep each thing once in an order that both can live with", () => {
    expect(mergeOrder(["a", "b"], ["a", "x", "b"], ["b", "a"])).toEqual(["b", "a", "x"]);
    expect(mergeOrder([], ["x"], ["y"])).toHaveLength(2);
    expect(someId()).not.toBe(someId());
  });
});
