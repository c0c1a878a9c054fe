import { expect, test } from "vitest";
import { clockOf } from "./clock";

test("the quickest exchange tells the clock, and how well", () => {
  const slow = { sent_ms: 0, server_ms: 5300, got_ms: 400 }; // the way there took long
  const quick = { sent_ms: 1000, server_ms: 6010, got_ms: 1020 };
  expect(clockOf([slow, quick])).toEqual({ offset_ms: 5000, doubt_ms: 10 });
});
