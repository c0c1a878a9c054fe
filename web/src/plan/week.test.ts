import { expect, test } from "vitest";
import { headline, type Plan } from "./week";

const part = (day: number, kind: string, left = 0, right = 0) => ({ id: day, day, kind, name: kind, key: "", minutes: 5, strikes: left + right, left, right, rests: false, done: null, thrown: 0 });
const week = (parts: Plan["parts"], owed_kicks = 0) => ({ parts, planned: parts.reduce((sum, p) => sum + p.strikes, 0), owed_hands: 0, owed_kicks }) as Plan;

test("the headline says how many evenings and which side gets back what it is owed", () => {
  expect(headline(week([]))).toBe("Nothing is planned yet.");
  expect(headline(week([part(1, "drill")]))).toBe("One evening.");
  expect(headline(week([part(1, "kicks", 36, 24), part(3, "kicks", 25, 25)], -12))).toBe("Two evenings, 110 strikes. The left leg gets 12 back.");
});
