import type { LiveEvent } from "./events";
import type { Mark, Station, Struck, Take } from "./shapes";

/** The set that runs; nothing between sets. */
export function running(take: Take): Mark | undefined {
  return take.marks.findLast((m) => m.kind === "set" && m.until === null);
}

/** The set that ended last. */
export function lastSet(take: Take): Mark | undefined {
  return take.marks.findLast((m) => m.kind === "set" && m.until !== null);
}

/** What an event of a strike holds. */
export type StrikeEvent = Required<Omit<LiveEvent, "units" | "nobodys" | "lag_s">>;

/** A take with a strike that was just measured, or measured further. */
export function whatBecame(take: Take, event: StrikeEvent): Take {
  const there = take.strikes.find((s) => s.strike === event.strike);
  if (there && !there.flags.includes("provisional")) return take; // it has been settled meanwhile
  const struck = { ...told(event, there), mark: event.mark || unplaced(take)?.key || (there?.mark ?? "") };
  const strikes = there ? take.strikes.map((s) => (s === there ? struck : s)) : [...take.strikes, struck].sort((a, b) => a.contact_s - b.contact_s);
  return { ...take, strikes };
}

/** A strike as an event tells it, with what was known of it before. */
function told(event: StrikeEvent, there: Struck | undefined): Struck {
  const { strike, number, contact_s, limb, flags, whole, mark } = event;
  const measures = { ...there?.measures, ...event.measures };
  return { strike, number, contact_s, limb, flags, whole, mark, measures, version: Math.max(event.version, there?.version ?? 0), excluded: there?.excluded ?? "", remarks: there?.remarks ?? [] };
}

/** A station with a strike that was just measured, or measured further; nothing where the server must be asked. */
export function stationWith(row: Station, event: LiveEvent): Station | undefined {
  if (event.take !== row.take_id || !event.measures) return undefined;
  const heard = event as StrikeEvent;
  const same = row.last?.strike === heard.strike;
  if (row.last && !same && row.last.contact_s > heard.contact_s) return row; // more of one that was before it
  return { ...row, last: told(heard, same ? row.last! : undefined), thrown: row.thrown + (same ? 0 : 1) };
}

/** An event, and when this page heard it. */
export interface Heard {
  at: number;
  event: LiveEvent;
}

/** A take as the server told it, with the strikes that were heard of while it was on its way. */
export function caughtUp(take: Take, heard: Heard[], asked: number): Take {
  const since = heard.filter((h) => h.at >= asked && h.event.take === take.id);
  return since.reduce((t, h) => whatBecame(t, h.event as StrikeEvent), take);
}

/** A set that runs, as long as nobody can say when it began on the clock of the strikes. */
function unplaced(take: Take): Mark | undefined {
  return take.marks.findLast((m) => m.kind === "set" && m.until === null && m.at_s === null);
}

/** Strikes of a set that count. */
export function counted(take: Take, key: string): Struck[] {
  return take.strikes.filter((s) => s.mark === key && !s.excluded);
}

/** How many by each side; strikes that no limb unit saw count for the planned one. */
export function sides(strikes: Struck[], planned = ""): { left: number; right: number } {
  const of = (side: string) => strikes.filter((s) => (/^(left|right)/.test(s.limb) ? s.limb : planned).startsWith(side)).length;
  return { left: of("left"), right: of("right") };
}
