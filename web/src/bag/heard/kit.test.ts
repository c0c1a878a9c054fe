import { expect, test } from "vitest";
import { behindInWords } from "./kit";

test("measuring that is behind, or says nothing any more, is told as that", () => {
  expect(behindInWords(0, 1200)).toBe("");
  expect(behindInWords(12.4, 0)).toBe("Measuring is 12 s behind. Every strike is kept and will be told.");
  expect(behindInWords(0, 7000)).toMatch(/^Measuring stands still/);
});
