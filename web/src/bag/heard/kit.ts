import { placeName } from "../../format";
import type { KitState } from "./events";

export const SILENT_S = 2; // without a sample, while others go on
export const LOW_PCT = 15;

export function silent(state: KitState): boolean {
  return state.silent_s === null || state.silent_s > SILENT_S;
}

/** What the units do, in a line. */
export function kitInWords(kit: Record<string, KitState>): string {
  const places = Object.keys(kit);
  if (!places.length) return "";
  const gone = places.filter((p) => silent(kit[p]!));
  const low = places.filter((p) => (kit[p]!.battery_pct ?? 100) < LOW_PCT);
  if (gone.length) return `${gone.map(placeName).join(", ")}: silent`;
  if (low.length) return `${low.map(placeName).join(", ")}: battery low`;
  return `${places.map(placeName).join(", ")}: all there`;
}

export const UNHEARD_MS = 6000; // a live worker tells of its stations each second

/** How far the figures are behind what has come, in words; nothing where they are not. */
export function behindInWords(lagS: number, unheardMs: number): string {
  if (unheardMs > UNHEARD_MS) return "Measuring stands still. Every strike is kept and is told once it goes on.";
  if (lagS > 0) return `Measuring is ${Math.round(lagS)} s behind. Every strike is kept and will be told.`;
  return "";
}

/** What still counts while a unit is silent. */
export function whatStillCounts(place: string): string {
  if (place === "bag") return "Nothing is measured until it is back. The hub keeps what it has.";
  if (/wrist|forearm|ankle/.test(place)) return "Force goes on; speed and path of that limb are not measured until it is back.";
  if (/sole/.test(place)) return "Force and speed go on; weight is not measured until it is back.";
  return "Force and speed go on; the turn is not measured until it is back.";
}
