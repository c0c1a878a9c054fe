import { describe, expect, it } from "vitest";
import { versionsOf } from "./editing";
import type { Schemas } from "../api/client";
import { rowsOf, type View } from "./view";

const strikes = {
  id: [11, 12, 13, 14],
  number: [1, 2, 3, 4],
  version: [1, 4, 2, 1],
  limb: ["left_hand", "right_hand", "left_hand", "right_hand"],
  excluded: ["", "glancing", "", ""],
  flags: [[], ["in_burst"], ["clipped:bag"], ["in_burst", "gap:bag"]],
  values: { peak_force_n: [900, null, 1200, 900] },
} as unknown as Schemas["Strikes"];
const view = (part: Partial<View>) => ({ sort: "number", down: false, limb: "", keep: "", ...part }) as View;

describe("rows", () => {
  it("are filtered by limb, by what counts and by what is flagged", () => {
    expect(rowsOf(strikes, view({ limb: "right_hand" }))).toEqual([1, 3]);
    expect(rowsOf(strikes, view({ keep: "counted" }))).toEqual([0, 2, 3]);
    expect(rowsOf(strikes, view({ keep: "out" }))).toEqual([1]);
    expect(rowsOf(strikes, view({ keep: "flagged" }))).toEqual([2, 3]); // a burst alone is nothing to look at
  });

  it("that lack the measure stand last either way, and equal ones stay in order", () => {
    expect(rowsOf(strikes, view({ sort: "peak_force_n" }))).toEqual([0, 3, 2, 1]);
    expect(rowsOf(strikes, view({ sort: "peak_force_n", down: true }))).toEqual([2, 0, 3, 1]);
  });
});

describe("versions", () => {
  it("are those that the page shows, in the order that was asked", () => {
    expect(versionsOf(strikes, [13, 12])).toEqual([2, 4]);
    expect(versionsOf(strikes, [99])).toEqual([0]); // which no strike has: the server says so
    expect(versionsOf(undefined, [11])).toEqual([0]);
  });
});
