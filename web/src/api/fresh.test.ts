import { QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";
import { FreshClient } from "./fresh";

test("what was changed while the first answer was on its way is in the answer", async () => {
  const client = new FreshClient();
  const list = ["old"];
  const held: (() => void)[] = [];
  const queryFn = () => {
    const seen = [...list];
    return new Promise<string[]>((resolve) => held.push(() => resolve(seen)));
  };
  const observer = new QueryObserver<string[]>(client, { queryKey: ["list"], queryFn });
  const stop = observer.subscribe(() => {});
  list.push("new");
  const changed = client.invalidateQueries();
  await new Promise((resolve) => setTimeout(resolve));
  held.forEach((answer) => answer());
  await changed;
  expect(client.getQueryData(["list"])).toEqual(["old", "new"]);
  stop();
});
