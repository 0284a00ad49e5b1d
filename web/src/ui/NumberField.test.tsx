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
    ["2", "At least 5; 30 still holds"],
    ["9000", "At most 500; 30 still holds"],
    ["1,5", "Write 1.5 or 15: a comma stands before thousands; 30 still holds"],
  ])(
    "is never changed silently: %s stays, says what is wrong, and keeps its form from being sent",
    (text, said) => {
      const { edits } = edit(30, false);
      type(text);
      fireEvent.blur(box());
      expect(edits).toEqual([]);
      expect(box().value).toBe(text);
      expect(screen.getByText(said)).toBeTruthy();
      expect(box().checkValidity()).toBe(false);
      fireEvent.keyDown(box(), { key: "Escape" });
      expect(box().value).toBe("30");
      expect(box().checkValidity()).toBe(true);
    },
  );

  it("is read as the application writes it", () => {
    const { edits, latest } = edit(30, false);
    type("4,0");
    expect(edits).toEqual([]);
    type("400");
    expect(latest()).toBe(400);
    fireEvent.keyDown(box(), { key: "ArrowUp" });
    expect(latest()).toBe(401);
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
