import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";
import { jobChanged, keys } from "../src/api/keys";

it("a page that is only opening does not show what was asked for before its job changed", async () => {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const answers: ((walk: string) => void)[] = [];
  const page = new QueryObserver(queries, {
    queryKey: keys.walk("j", {}),
    queryFn: () => new Promise<string>((answer) => answers.push(answer)),
  });
  const close = page.subscribe(() => {});
  const changed = jobChanged(queries, "j");
  await expect.poll(() => answers.length).toBe(2);
  answers[1]?.("with the reading");
  await changed;
  answers[0]?.("without it");
  expect(page.getCurrentResult().data).toBe("with the reading");
  close();
});
