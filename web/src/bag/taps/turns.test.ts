import { expect, test } from "vitest";
import { inTurn } from "./turns";

const waiting = (name: string, station_id: number | null = null, stepped_up_at: string | null = null) => ({ name, station_id, stepped_up_at });

test("who takes turns at this bag is next, the longest waiting first; then who has not thrown", () => {
  const rows = [waiting("Idris", 2, "2026-01-01T18:00:00Z"), waiting("Lior"), waiting("Maren", 1, "2026-01-01T18:20:00Z"), waiting("Petra", 1, "2026-01-01T18:05:00Z"), waiting("Kofi")];
  expect(inTurn(rows, 1).map((r) => r.name)).toEqual(["Petra", "Maren", "Kofi", "Lior", "Idris"]);
});
