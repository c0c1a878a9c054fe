import type { Schemas } from "../api/client";
import { useAddress } from "../ui/address";

/** What of the page is in its address: it can be shared and reloaded. */
export interface View {
  recording: number | undefined;
  strike: number | undefined;
  id: number | undefined; //: a strike by its identity, as other pages link to it
  measure: string;
  sort: string;
  down: boolean;
  limb: string;
  keep: string;
  columns: string[];
  show: string;
  under: string;
  at: number | undefined;
}

const ON_THE_BAG = { measure: "peak_force_n", columns: ["peak_force_n", "impulse_n_s", "contact_ms", "hit_below_top_m", "off_centre_m"] };
const OF_A_CHILD = { measure: "turn_done_pct", columns: ["turn_done_pct", "path_ratio", "return_ms", "settle_ms"] };
const OFF_THE_BAG = { measure: "peak_speed_m_s", columns: ["peak_speed_m_s", "impulse_estimated_n_s", "flight_ms", "return_ms"] };

export function useView() {
  return useAddress(read);
}

function read(params: URLSearchParams): View {
  const number = (key: string) => (params.get(key) ? Number(params.get(key)) : undefined);
  return {
    recording: number("recording"),
    strike: number("strike"),
    id: number("id"),
    measure: params.get("measure") ?? "",
    sort: params.get("sort") ?? "number",
    down: params.get("down") === "1",
    limb: params.get("limb") ?? "",
    keep: params.get("keep") ?? "",
    columns: params.get("columns")?.split(".") ?? [],
    show: params.get("show") ?? "",
    under: params.get("under") ?? "",
    at: number("at"),
  };
}

/** What the marks and the table show where nothing was chosen: force where a bag felt it, else speed; of a child, technique
 * where units saw any. */
export function chosenOf(view: View, strikes: Schemas["Strikes"], child = false): View {
  const seen = strikes.values[OF_A_CHILD.measure]?.some((v) => v !== null);
  const usual = child && seen ? OF_A_CHILD : strikes.kind.length > 0 && strikes.kind.every((k) => k !== "bag") ? OFF_THE_BAG : ON_THE_BAG;
  return { ...view, measure: view.measure || usual.measure, columns: view.columns.length ? view.columns : usual.columns };
}

/** Places in the strikes' columns of the rows to show, filtered and in order. */
export function rowsOf(strikes: Schemas["Strikes"], view: View): number[] {
  const rows = strikes.id.map((_, i) => i).filter((i) => {
    if (view.limb && strikes.limb[i] !== view.limb) return false;
    if (view.keep === "counted" && strikes.excluded[i]) return false;
    if (view.keep === "out" && !strikes.excluded[i]) return false;
    return !(view.keep === "flagged" && strikes.flags[i]!.every((f) => f === "in_burst"));
  });
  const key = sortKey(strikes, view.sort);
  const way = view.down ? -1 : 1;
  return rows.sort((a, b) => {
    const [x, y] = [key(a), key(b)];
    if (x === null || y === null) return x === y ? a - b : x === null ? 1 : -1;
    return (x < y ? -1 : x > y ? 1 : 0) * way || a - b;
  });
}

function sortKey(strikes: Schemas["Strikes"], sort: string): (i: number) => number | string | null {
  const values = strikes.values[sort];
  if (values) return (i) => values[i] ?? null;
  if (sort === "limb") return (i) => strikes.limb[i] ?? "";
  return (i) => strikes.number[i]!;
}
