import { fireEvent, render, renderHook, screen } from "@testing-library/react";
import { afterEach, expect, test, vi } from "vitest";
import { useSingleKeys } from "./singleKeys";
import { useKeys } from "./useKeys";

afterEach(() => localStorage.clear());

function Listening({ keys }: { keys: Record<string, () => void> }) {
  useKeys(keys);
  return <input aria-label="words" />;
}

test("a key is a command unless somebody writes, or means another with it", () => {
  const next = vi.fn();
  render(<Listening keys={{ j: next }} />);
  fireEvent.keyDown(document.body, { key: "j" });
  expect(next).toHaveBeenCalledTimes(1);
  fireEvent.keyDown(screen.getByLabelText("words"), { key: "j" });
  fireEvent.keyDown(document.body, { key: "j", ctrlKey: true });
  fireEvent.keyDown(document.body, { key: "J" });
  expect(next).toHaveBeenCalledTimes(1);
});

test("single keys are switched off and on again, and Esc works in between", () => {
  const next = vi.fn();
  const close = vi.fn();
  render(<Listening keys={{ j: next, Escape: close }} />);
  const { result } = renderHook(() => useSingleKeys());
  const press = (key: string) => fireEvent.keyDown(document.body, { key });
  result.current[1](false);
  press("j");
  press("Escape");
  expect(next).not.toHaveBeenCalled();
  expect(close).toHaveBeenCalledTimes(1);
  result.current[1](true);
  press("j");
  expect(next).toHaveBeenCalledTimes(1);
});

test("what is gone hears no key", () => {
  const next = vi.fn();
  const { unmount } = render(<Listening keys={{ j: next }} />);
  unmount();
  fireEvent.keyDown(document.body, { key: "j" });
  expect(next).not.toHaveBeenCalled();
});
