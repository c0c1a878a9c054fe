import { expect, test } from "vitest";
import { clipOf } from "./sounds";

test("a number is spoken as it is, a gym's own word as the strike that it means, what no clip says not at all", () => {
  expect(clipOf("1", "lead-straight")).toBe("1");
  expect(clipOf("jab", "lead-straight")).toBe("lead-straight");
  expect(clipOf("roundhouse", "rear-round-rising")).toBe("rear-kick");
  expect(clipOf("hammer", "rear-hammer-fist")).toBeNull();
});
