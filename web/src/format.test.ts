import { describe, expect, it } from "vitest";
import { clock, convert, day, digits, familyName, limbName, minutes, plannedName, said, show, today, type Measure } from "./format";

const measure = (name: string, unit: string, decimals: number) => ({ name, unit, decimals, label: name }) as Measure;
const force = measure("peak_force_n", "N", 0);
const impulse = measure("impulse_n_s", "N s", 1);

describe("figures", () => {
  it("have a true minus, and none before a zero", () => {
    expect(digits(-3.26, 1)).toBe("−3.3");
    expect(digits(-0.04, 1)).toBe("0.0");
    expect(digits(-1234.4, 0)).toBe("−1,234");
  });

  it("of force are told to ten newtons, and a doubt never as nothing", () => {
    expect(show(force, 1843.7, 52.4, "si")).toEqual({ value: "1,840", unit: "N", doubt: "±100" });
    expect(show(force, 1843.7, 0.2, "si")?.doubt).toBe("±1");
    expect(show(impulse, 24.06, 0.001, "si")?.doubt).toBe("±0.1");
  });

  it("that are absent are no zero", () => {
    expect(show(force, null, 3, "si")).toBeNull();
    expect(show(force, undefined, undefined, "si")).toBeNull();
    expect(show(force, 0, null, "si")).toEqual({ value: "0", unit: "N", doubt: null });
  });

  it("in the US system keep what they say", () => {
    expect(show(force, 2224.11, 44.5, "us")).toEqual({ value: "500", unit: "lbf", doubt: "±20" });
    const [metres, unit, decimals] = convert(0.3048, "m", 2, "us");
    expect([digits(metres, decimals), unit]).toEqual(["12.0", "in"]);
    expect(convert(0.0123, "m", 3, "si")).toEqual([12.3, "mm", 0]);
    expect(convert(5, "deg/s", 0, "us")).toEqual([5, "°/s", 0]);
  });
});

describe("times", () => {
  it("are the gym’s, across midnight and the change of clocks", () => {
    expect(day("2026-11-02T23:30:00Z", "Europe/Oslo")).toMatch(/^Tue,? 3 Nov/);
    expect(day("2026-11-02T23:30:00Z", "America/Denver")).toMatch(/^Mon,? 2 Nov/);
    expect(clock("2026-10-24T22:59:59Z", 2, "Europe/Oslo")).toBe("01:00:01");
    expect(today("Pacific/Auckland")).toMatch(/^\d{4}-\d{2}-\d{2}$/);
    expect(minutes(59.6)).toBe("1:00");
  });
});

describe("names", () => {
  it("of limbs and of planned sets are words", () => {
    expect(limbName("left_hand")).toBe("left hand");
    expect(limbName("unknown")).toBe("not known");
    expect(plannedName("rear-round-snapped;right_foot;level=head", () => "rear round kick, snapped")).toBe("Rear round kick, snapped");
    expect(plannedName("called", String)).toBe("Round with calls");
    expect(plannedName("", String)).toBe("Strike");
  });
});

describe("families of strikes that are counted", () => {
  it("are named as a coach says many of them", () => {
    const many = ["round kick", "front kick, pushed", "straight", "elbow across", "straight knee"].map((one) => familyName("", () => one));
    expect(many).toEqual(["Round kicks", "Front kicks, pushed", "Straights", "Elbows across", "Straight knees"]);
  });
});

it("a sentence of the server's is said in the units that are set", () => {
  expect(said("Better with it: peak force +478 N, mass behind it +0.3 kg.", "us")).toBe("Better with it: peak force +107 lbf, mass behind it +0.7 lb.");
  expect(said("12 to 20 mm more drop, ±3 ms", "us")).toBe("0.5 to 0.8 in more drop, ±3 ms");
  expect(said("9 to 21 % more impulse than 2 N s/kg", "us")).toBe("9 to 21 % more impulse than 2 N s/kg");
  expect(said("−1,200 N", "si")).toBe("−1,200 N");
});
