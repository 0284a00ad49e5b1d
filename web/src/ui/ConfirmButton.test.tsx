import { Notifications } from "@mantine/notifications";
import { act, fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { show } from "../test-show";
import { announce } from "./announce";
import { ConfirmButton } from "./ConfirmButton";

const button = (name: string) => screen.getByRole("button", { name });

function showMerge() {
  let done = 0;
  let finish = () => {};
  const onYes = () => {
    done += 1;
    return new Promise<void>((resolve) => {
      finish = resolve;
    });
  };
  show(<ConfirmButton words="Merge all…" yes="Yes, merge" onYes={onYes} />);
  return { done: () => done, finish: () => act(async () => finish()) };
}

describe("a button that asks once more", () => {
  it("does it once when it is told yes, however often, and asks anew afterwards", async () => {
    const { done, finish } = showMerge();
    fireEvent.click(button("Merge all…"), { detail: 1 });
    fireEvent.click(button("Yes, merge"), { detail: 1 });
    fireEvent.click(button("Yes, merge"), { detail: 1 });
    expect(done()).toBe(1);
    await finish();
    expect(button("Merge all…")).toBeTruthy();
  });

  it("does nothing on a double click, and on Enter pressed twice", () => {
    const { done } = showMerge();
    fireEvent.click(button("Merge all…"), { detail: 1 });
    fireEvent.click(button("Yes, merge"), { detail: 2 });
    expect(done()).toBe(0);
    fireEvent.click(button("Not yet"), { detail: 2 });
    expect(document.activeElement?.textContent).toBe("Not yet");
    fireEvent.click(button("Not yet"));
    expect(done()).toBe(0);
    expect(button("Merge all…")).toBeTruthy();
  });
});

describe("what is said in passing", () => {
  it("stands there once however often it is said, once for each thing that it undoes", async () => {
    show(<Notifications />);
    const undone: string[] = [];
    act(() => {
      announce("2 groups are merged.");
      announce("2 groups are merged.");
      for (const key of ["5,6", "5,6", "7,8"])
        announce("They are different.", { undo: { key, act: () => undone.push(key) } });
    });
    expect(await screen.findAllByText("2 groups are merged.")).toHaveLength(1);
    const [first, second, ...more] = screen.getAllByRole("button", { name: "Undo" });
    expect(more).toEqual([]);
    fireEvent.click(first as HTMLElement);
    fireEvent.click(second as HTMLElement);
    expect(undone.sort()).toEqual(["5,6", "7,8"]);
    await waitFor(() => expect(screen.queryByText("They are different.")).toBeNull());
  });
});
