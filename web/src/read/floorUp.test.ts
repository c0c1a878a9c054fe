import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { laneScale, placedOn, valueAt } from "./FloorUp";
import { phasesOf, threadOf } from "./phases";

type Strikes = Schemas["Strikes"];
const strikes = (values: Record<string, (number | null)[]>, launch: number | null = -150) => ({ launch_ms: [launch], values }) as unknown as Strikes;
const course = (values: number[]) => ({ ms: values.map((_, i) => 10 * i), values });

describe("a curve", () => {
  it("is read between its points, and not beyond them", () => {
    const c = course([0, 10, 30]);
    expect(valueAt(c, 5)).toBe(5);
    expect(valueAt(c, 20)).toBe(30);
    expect(valueAt(c, 25)).toBeNull();
  });

  it("and what is marked on it share one height, whatever is laid under", () => {
    const own = course([0, 4, 8]);
    const under = course([0, 10, 20]);
    const drawn = laneScale("speed_m_s", [own, under], 0);
    expect(drawn(8)).not.toBe(laneScale("speed_m_s", [own, undefined], 0)(8));
    expect(drawn(20)).toBe(laneScale("speed_m_s", [under, own], 0)(20));
  });

  it("of load runs from none to all, whatever it holds", () => {
    expect(laneScale("lead_load_pct", [course([40, 60])], 0).domain()).toEqual([0, 100]);
  });
});

describe("phases", () => {
  it("follow each other from gathering to return", () => {
    const pelvis = { ms: [-300, -200, -150, -90, 0, 50], values: [0, 5, 90, 400, 200, 10] };
    const found = phasesOf(strikes({ contact_ms: [16], return_ms: [240] }), 0, pelvis);
    expect(found.map((p) => p.name)).toEqual(["gather", "drive", "throw", "push", "return"]);
    for (let i = 1; i < found.length; i++) expect(found[i]!.from).toBe(found[i - 1]!.to);
    expect(found.at(-1)!.to).toBe(256);
  });

  it("are not made up where the launch is not known", () => {
    expect(phasesOf(strikes({}, null), 0, undefined)).toEqual([]);
  });
});

describe("the thread", () => {
  it("runs through what was measured, from the floor up, and leaves out what was not", () => {
    const told = threadOf(strikes({ step_before_ms: [12], pelvis_before_ms: [90], torso_before_ms: [null], hand_before_ms: [10] }), 0, 6);
    expect(told.map((p) => [p.lane, p.ms])).toEqual([
      ["lead_load_pct", -12],
      ["pelvis_deg_s", -90],
      ["speed_m_s", -10],
      ["force", 6],
    ]);
  });

  it("stays on its curve when a harder strike is laid under", () => {
    const own = { speed_m_s: course([0, 4, 8]) };
    const point = { lane: "speed_m_s", ms: 20, label: "hand" } as ReturnType<typeof threadOf>[number];
    const [alone] = placedOn([point], own, {});
    const [below] = placedOn([point], own, { speed_m_s: course([0, 10, 20]) });
    expect(below!.y - alone!.y).toBeGreaterThan(40); // 8 of 20, no longer the top of its lane
    expect(placedOn([{ ...point, ms: 30 }], own, {})).toEqual([]);
  });
});
