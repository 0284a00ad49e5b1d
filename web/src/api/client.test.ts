import { afterEach, expect, test, vi } from "vitest";

afterEach(() => vi.unstubAllGlobals());

test("the second half of a double click waits for the first one's answer, and the next click asks anew", async () => {
  const answers: (() => void)[] = [];
  const sent = vi.fn(
    () =>
      new Promise<Response>((resolve) => {
        answers.push(() =>
          resolve(
            new Response(JSON.stringify({ id: answers.length, token: "uvarovite_x" }), {
              headers: { "Content-Type": "application/json" },
            }),
          ),
        );
      }),
  );
  vi.stubGlobal("fetch", sent);
  // A browser reads an address by the page that it is on.
  vi.stubGlobal(
    "Request",
    class extends Request {
      constructor(address: string, init: RequestInit) {
        super(new URL(address, "http://127.0.0.1"), init);
      }
    },
  );
  const { client, take } = await import("./client");
  const make = () => take(client.POST("/api/tokens", { body: { name: "till", scopes: ["look"] } }));
  const both = Promise.all([make(), make()]);
  await vi.waitFor(() => expect(answers).toHaveLength(1));
  answers[0]?.();
  expect(await both).toEqual([
    { id: 1, token: "uvarovite_x" },
    { id: 1, token: "uvarovite_x" },
  ]);
  const third = make();
  await vi.waitFor(() => expect(answers).toHaveLength(2));
  answers[1]?.();
  expect((await third).id).toBe(2);
  expect(sent).toHaveBeenCalledTimes(2);
});
