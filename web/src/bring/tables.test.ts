import { describe, expect, it } from "vitest";
import type { Schemas } from "../api/client";
import { newUnit, reading } from "./TableCard";
import { whyNotYet } from "./TablePanel";

const unit = (placement: string): Schemas["UnitMapText"] => ({ placement, accel: ["ax", "ay", "az"], gyro: [], accel_unit: "g", gyro_unit: "rad/s", accel_scale: 1, gyro_scale: 1, only: "", load: [], load_unit: "N" });
const mapping = (units: Schemas["UnitMapText"][]): Schemas["MappingText"] => ({ units, time: "t", time_unit: "s", rate_hz: null, sensor_column: "" });
const table = (part: Partial<Schemas["TableOut"]> = {}) => ({ state: "done", message: "", questions: [], columns: ["t"], mapping: mapping([unit("bag")]), ...part }) as Schemas["TableOut"];

describe("tables", () => {
  it("are brought in only when nothing is asked any more", () => {
    expect(whyNotYet([table()])).toBe("");
    expect(whyNotYet([table(), table({ mapping: mapping([unit("pelvis")]) })])).toBe("");
    expect(whyNotYet([table({ state: "running" })])).toMatch(/^Wait/);
    expect(whyNotYet([table({ state: "failed" })])).toMatch(/dismiss it/);
    expect(whyNotYet([table({ mapping: mapping([]) })])).toMatch(/which columns/);
    expect(whyNotYet([table({ mapping: mapping([unit("")]) })])).toMatch(/where each unit/);
    expect(whyNotYet([table(), table()])).toMatch(/same place/);
    expect(whyNotYet([table({ questions: [{ key: "rate", about: "rate", unit: null, text: "rate?" }] })])).toMatch(/^One question/);
    expect(whyNotYet([table({ message: "Line 602: the clock leaps" })])).toMatch(/impossible/);
  });

  it("are being read while the queue has them", () => {
    expect(["queued", "running", "done", "failed"].map((state) => reading({ state }))).toEqual([true, true, false, false]);
  });
});

describe("a unit that is added", () => {
  it("takes columns that nobody has, and no turn rates where too few are left", () => {
    const columns = ["t", "ax", "ay", "az", "bx", "by", "bz", "cx"];
    expect(newUnit(columns, mapping([unit("bag")]))).toMatchObject({ accel: ["bx", "by", "bz"], gyro: [], placement: "" });
    expect(newUnit(columns, mapping([]))).toMatchObject({ accel: ["ax", "ay", "az"], gyro: ["bx", "by", "bz"] });
  });

  it("counts a column that is turned round as taken", () => {
    const turned = { ...unit("bag"), accel: ["-ax", "ay", "az"] };
    expect(newUnit(["t", "ax", "ay", "az", "bx", "by", "bz"], mapping([turned])).accel).toEqual(["bx", "by", "bz"]);
  });
});
