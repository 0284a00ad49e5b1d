import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it, vi } from "vitest";
import { renew } from "./renew";

it("takes no answer for new that was asked for before the change, not even the first", async () => {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const answers: ((value: string) => void)[] = [];
  const queryFn = () => new Promise<string>((resolve) => answers.push(resolve));
  const observer = new QueryObserver(queries, { queryKey: ["campaigns", 1], queryFn });
  const stop = observer.subscribe(() => {});
  expect(answers).toHaveLength(1);
  const renewed = renew(queries, "campaigns");
  await vi.waitFor(() => expect(answers).toHaveLength(2));
  answers[0]?.("before");
  answers[1]?.("after");
  await renewed;
  expect(observer.getCurrentResult().data).toBe("after");
  stop();
});
