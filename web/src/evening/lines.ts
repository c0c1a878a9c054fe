import type { Schemas } from "../api/client";
import { landed } from "../format";

type Page = Pick<Schemas["EveningPage"], "planned" | "thrown">;

/** A set as it was planned, as it was thrown, or both. */
export interface Line {
  key: string;
  planned: Schemas["PlannedOut"] | null;
  recording: number | null; //: where it was thrown
  code: string;
  limb: string;
  level: string;
  under: string;
  strikes: number;
  excluded: number;
  mean: number | null;
  landed: string; //: on pads, in the air; empty on the bag
  byCoach: boolean;
}

/** What was thrown, in its order, each beside the plan that it fulfils; then what is still to be thrown. */
export function linesOf(evening: Page): Line[] {
  const plans = new Map(evening.planned.map((p) => [p.id, p]));
  const thrown = evening.thrown.map((t) => ({
    key: `thrown ${t.id}`,
    planned: (t.planned_id !== null && plans.get(t.planned_id)) || null,
    recording: t.recording_id,
    code: t.code,
    limb: t.limb,
    level: t.level,
    under: under(t),
    strikes: t.strikes,
    excluded: t.excluded,
    mean: t.mean,
    landed: t.kinds.map(landed).filter(Boolean).join(" and "),
    byCoach: t.by_coach,
  }));
  const done = new Set(evening.thrown.map((t) => t.planned_id));
  const open = evening.planned
    .filter((p) => !done.has(p.id))
    .map((p) => ({ key: `planned ${p.id}`, planned: p, recording: null, code: p.code, limb: p.limb, level: p.level, under: under(p), strikes: 0, excluded: 0, mean: null, landed: "", byCoach: false }));
  return [...thrown, ...open];
}

function under(set: { school: string; levels: { [key: string]: string } }): string {
  return [set.school, ...Object.values(set.levels)].filter(Boolean).join(", ");
}
