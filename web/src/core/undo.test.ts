import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { EMPTY, MESSAGE_PARTS, type MessageDoc } from "./message";
import { NO_STEPS, redone, type Steps, undone, withStep } from "./undo";

const doc = (subject: string, preheader = ""): MessageDoc => ({
  name: "",
  content: { ...EMPTY, subject, preheader },
});

/** The documents one after another, as edited at these times in these places. */
function edited(docs: MessageDoc[], keys: string[], times: number[]): Steps<MessageDoc> {
  return docs.slice(1).reduce<Steps<MessageDoc>>((steps, after, at) => {
    const before = docs[at] as MessageDoc;
    return withStep(steps, { before, after, key: keys[at] ?? "", at: times[at] ?? 0 });
  }, NO_STEPS);
}

describe("undo", () => {
  it("brings back each document in turn, and redo all of them again", () => {
    fc.assert(
      fc.property(fc.array(fc.string({ maxLength: 3 }), { minLength: 1, maxLength: 8 }), (subjects) => {
        const docs = ["", ...subjects].map((one) => doc(one));
        let steps = edited(docs, [], []);
        let now = docs.at(-1) as MessageDoc;
        for (const before of docs.slice(0, -1).reverse()) {
          const back = undone(steps, now, MESSAGE_PARTS);
          expect(back?.doc).toEqual(before);
          if (back) [steps, now] = [back.steps, back.doc];
        }
        expect(undone(steps, now, MESSAGE_PARTS)).toBeUndefined();
        for (const after of docs.slice(1)) {
          const on = redone(steps, now, MESSAGE_PARTS);
          expect(on?.doc).toEqual(after);
          if (on) [steps, now] = [on.steps, on.doc];
        }
        expect(redone(steps, now, MESSAGE_PARTS)).toBeUndefined();
      }),
      { seed: 7 },
    );
  });

  it("takes typing that goes on in one place as one step, and a pause or another place as the next", () => {
    const docs = ["", "a", "ab", "abc", "abcd"].map((one) => doc(one));
    expect(edited(docs, ["s", "s", "s", "s"], [0, 300, 900, 1_500]).past).toHaveLength(1);
    expect(edited(docs, ["s", "s", "s", "s"], [0, 300, 1_300, 1_500]).past).toHaveLength(2);
    expect(edited(docs, ["s", "s", "p", "p"], [0, 300, 500, 600]).past).toHaveLength(2);
    expect(edited(docs, ["", "", "", ""], [0, 1, 2, 3]).past).toHaveLength(4);
  });

  it("leaves what somebody else changed meanwhile", () => {
    const steps = edited([doc("mine before"), doc("mine")], [], []);
    const back = undone(steps, doc("mine", "theirs"), MESSAGE_PARTS);
    expect(back?.doc).toEqual(doc("mine before", "theirs"));
    const on = back && redone(back.steps, doc("mine before", "theirs again"), MESSAGE_PARTS);
    expect(on?.doc).toEqual(doc("mine", "theirs again"));
  });

  it("forgets what was undone when something new is written", () => {
    const back = undone(edited([doc("a"), doc("b")], [], []), doc("b"), MESSAGE_PARTS);
    const steps = back && withStep(back.steps, { before: doc("a"), after: doc("c"), key: "", at: 0 });
    expect(steps?.future).toEqual([]);
  });
});
