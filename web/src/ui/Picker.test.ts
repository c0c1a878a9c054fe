import { expect, test } from "vitest";
import { matching, type Pick } from "./Picker";

const picks: Pick[] = [
  { value: "lead-straight", name: "lead straight", also: ["jab", "1"] },
  { value: "rear-straight", name: "rear straight", also: ["cross", "2"] },
  { value: "rear-hook", name: "rear hook" },
  { value: "rear-hook-palm-in", name: "rear hook, palm in" },
];
const found = (typed: string) => matching(picks, typed).map((p) => p.value);

test("a strike is found by any of its names, in any order of words", () => {
  expect(found("cross")).toEqual(["rear-straight"]);
  expect(found("hook rear")).toEqual(["rear-hook", "rear-hook-palm-in"]);
  expect(found("2")).toEqual(["rear-straight"]);
  expect(found("uppercut")).toEqual([]);
});

test("what is called just so comes first, and nothing typed shows all", () => {
  expect(matching([picks[3]!, picks[2]!], "rear hook").map((p) => p.value)).toEqual(["rear-hook", "rear-hook-palm-in"]);
  expect(found("  ")).toHaveLength(4);
});
