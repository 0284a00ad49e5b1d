import { fireEvent, screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { showEditing } from "../test-show";
import { NumberField } from "./NumberField";

const edit = (first: number | null, blank: boolean) =>
  showEditing<number | null>(first, (value, onValue) => (
    <NumberField
      label="Gap"
      min={5}
      max={500}
      value={value}
      onNumber={onValue}
      {...(blank ? { onBlank: () => onValue(null) } : {})}
    />
  ));
const box = () => screen.getByLabelText("Gap") as HTMLInputElement;
const type = (text: string) => fireEvent.change(box(), { target: { value: text } });

describe("a number that is typed", () => {
  it("is told when it is one, and what stands there meanwhile is left alone", () => {
    const { edits } = edit(30, false);
    for (const text of ["", "-", "1", "12", "12.", "120"]) {
      type(text);
      expect(box().value).toBe(text);
    }
    expect(edits).toEqual([12, 120]);
  });

  it("gives way to what holds, when one leaves it unfinished", () => {
    const { edits } = edit(30, false);
    type("");
    fireEvent.blur(box());
    expect(box().value).toBe("30");
    expect(edits).toEqual([]);
  });

  it.each([
    ["2", 5],
    ["9000", 500],
  ])("comes within its bounds when one leaves it: %s", (text, kept) => {
    const { edits } = edit(30, false);
    type(text);
    expect(edits).toEqual([]);
    fireEvent.blur(box());
    expect(edits).toEqual([kept]);
    expect(box().value).toBe(String(kept));
  });

  it("can be none, where that means something", () => {
    const { edits } = edit(30, true);
    type("");
    fireEvent.blur(box());
    expect(box().value).toBe("");
    type("40");
    expect(edits).toEqual([null, 40]);
  });
});
