import { scaleLinear } from "d3-scale";
import { expect, test } from "vitest";
import { roundTicks } from "./ticks";

const from = (low: number, high: number) => scaleLinear([low, high], [0, 1]);

test("ticks are round in the units that are set, and stand where they say", () => {
  expect(roundTicks(from(0, 2000), 4, "N", "si").map((t) => t.text)).toEqual(["0", "500", "1,000", "1,500", "2,000"]);
  const us = roundTicks(from(0, 2000), 4, "N", "us");
  expect(us.map((t) => t.text)).toEqual(["0", "100", "200", "300", "400"]);
  expect(us[4]!.at * 0.224809).toBeCloseTo(400);
});

test("ticks have as many decimals as their step needs, no more", () => {
  expect(roundTicks(from(0.2, 0.41), 3, "share", "si").map((t) => t.text)).toEqual(["0.20", "0.25", "0.30", "0.35", "0.40"]);
  expect(roundTicks(from(61.9, 63.2), 3, "kg", "us").map((t) => t.text)).toEqual(["137", "138", "139"]);
});
