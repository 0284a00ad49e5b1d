import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render, screen } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, expect, test } from "vitest";
import { May, MayChange } from "./May";
import { meQuery, type Permission } from "./session";

afterEach(cleanup);

/** Shown to somebody who may do this and no more. */
function shownTo(permissions: Permission[], what: ReactNode) {
  const queries = new QueryClient();
  queries.setQueryData(meQuery.queryKey, {
    name: "Oda Mica",
    email: "oda.mica@skarnmuseum.example",
    role: "reader",
    permissions,
    csrf_token: "",
    inbox_url: null,
  });
  return render(<QueryClientProvider client={queries}>{what}</QueryClientProvider>);
}

test("a button is there for those who may, and for nobody else", () => {
  const what = (
    <May be="release">
      <button type="button">Release</button>
    </May>
  );
  shownTo(["look", "pause"], what);
  expect(screen.queryByRole("button")).toBeNull();
  cleanup();
  shownTo(["look", "release"], what);
  expect(screen.getByRole("button", { name: "Release" })).toBeTruthy();
});

test("what may not be changed can be read, and not be typed into", () => {
  const what = (
    <MayChange be="write">
      <input aria-label="Subject" defaultValue="Two walks" />
    </MayChange>
  );
  const subject = () => screen.getByLabelText<HTMLInputElement>("Subject");
  shownTo(["look"], what);
  expect(subject().value).toBe("Two walks");
  expect(subject().matches(":disabled")).toBe(true);
  cleanup();
  shownTo(["look", "write"], what);
  expect(subject().matches(":disabled")).toBe(false);
});

test("nobody may anything before it is known who is there", () => {
  render(
    <QueryClientProvider client={new QueryClient({ defaultOptions: { queries: { enabled: false } } })}>
      <May be="look">
        <button type="button">Look</button>
      </May>
    </QueryClientProvider>,
  );
  expect(screen.queryByRole("button")).toBeNull();
});
