import type { Schemas } from "../../api/client";

type Waiting = Pick<Schemas["Tonight"], "name" | "station_id" | "stepped_up_at">;

/** Those who take turns at this bag first, who has waited longest before the others; then who has not been at a bag tonight; by name. */
export function inTurn<W extends Waiting>(rows: W[], stationId: number): W[] {
  const place = (w: W) => (w.station_id === stationId ? 0 : w.station_id === null ? 1 : 2);
  const since = (w: W) => (w.station_id === stationId ? (w.stepped_up_at ?? "") : "");
  return [...rows].sort((a, b) => place(a) - place(b) || since(a).localeCompare(since(b)) || a.name.localeCompare(b.name));
}
