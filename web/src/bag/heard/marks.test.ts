import { expect, test } from "vitest";
import { caughtUp, counted, sides, stationWith, whatBecame } from "./marks";
import type { Station, Take } from "./shapes";

const set = { key: "a", kind: "set", at_s: 10, until_s: null, until: null, planned_id: 1, code: "rear-straight" };
const take = { marks: [set], strikes: [] } as unknown as Take;
const event = { kind: "strike" as const, station: 1, take: 1, units: {}, strike: 7, number: 1, contact_s: 12, limb: "right_hand", flags: ["provisional"], version: 1, whole: false, mark: "a" };

test("a strike comes first as the bag felt it, then whole, and is one", () => {
  const first = whatBecame(take, { ...event, measures: { impulse_n_s: [20, 1] } });
  const whole = whatBecame(first, { ...event, whole: true, measures: { peak_speed_m_s: [6, 0.1] } });
  expect(counted(whole, "a").map((s) => Object.keys(s.measures))).toEqual([["impulse_n_s", "peak_speed_m_s"]]);
  expect(sides(whole.strikes)).toEqual({ left: 0, right: 1 });
});

test("a station counts a strike once, in however many parts it is told, and asks where another stands there", () => {
  const row = { id: 1, take_id: 1, thrown: 2, last: null } as unknown as Station;
  const first = stationWith(row, { ...event, measures: { impulse_n_s: [20, 1] } })!;
  const second = stationWith(first, { ...event, strike: 8, contact_s: 14, measures: { impulse_n_s: [21, 1] } })!;
  const more = stationWith(second, { ...event, whole: true, measures: { peak_speed_m_s: [6, 0.1] } })!;
  expect([first.thrown, second.thrown, more.thrown, more.last?.strike]).toEqual([3, 4, 4, 8]);
  expect(stationWith(row, { ...event, take: 2, measures: {} })).toBeUndefined();
});

test("which set a strike fell into is the server's word, but while the clocks have not been compared", () => {
  const between = { ...event, mark: "", measures: {} };
  expect(whatBecame(take, between).strikes[0]?.mark).toBe("");
  const begun = { ...take, marks: [{ ...set, key: "b", at_s: null }] } as unknown as Take;
  expect(whatBecame(begun, between).strikes[0]?.mark).toBe("b");
});

test("what was settled is not overwritten by what was told late", () => {
  const settled = { ...take, strikes: [{ ...event, flags: [], mark: "a", excluded: "", remarks: [], measures: {} }] } as unknown as Take;
  expect(whatBecame(settled, { ...event, measures: { impulse_n_s: [20, 1] } })).toBe(settled);
});

test("a strike that was heard of while an answer was on its way is not lost to it", () => {
  const own = { ...take, id: 1 } as Take;
  const heard = [
    { at: 90, event: { ...event, strike: 6, number: 0, contact_s: 11, measures: {} } },
    { at: 110, event: { ...event, measures: {} } },
    { at: 111, event: { ...event, take: 2, strike: 9, measures: {} } },
  ];
  expect(caughtUp(own, heard, 100).strikes.map((s) => s.strike)).toEqual([7]);
});
