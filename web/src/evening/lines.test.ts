import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { linesOf } from "./lines";

const plan = (id: number) => ({ id, code: "rear-straight", limb: "", level: "head", levels: { "weight transfer": "full shift" }, school: "", strikes: 8 }) as unknown as Schemas["PlannedOut"];
const set = (id: number, planned_id: number | null) => ({ id, planned_id, recording_id: 5, code: "rear-straight", limb: "", level: "head", levels: {}, school: "centred", strikes: 7, excluded: 1, mean: 24, kinds: ["air", "bag"] }) as unknown as Schemas["ThrownOut"];

describe("an evening's sets", () => {
  it("stand as thrown beside their plan, and what is still to be thrown comes last", () => {
    const lines = linesOf({ planned: [plan(1), plan(2)], thrown: [set(11, 2), set(12, null)] });
    expect(lines.map((l) => [l.planned?.id ?? null, l.recording])).toEqual([
      [2, 5],
      [null, 5],
      [1, null],
    ]);
    expect(lines.map((l) => l.landed)).toEqual(["in the air", "in the air", ""]);
    expect(lines.map((l) => l.under)).toEqual(["centred", "centred", "full shift"]);
  });
});
