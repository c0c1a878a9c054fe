import type { Schemas } from "./api/client";
import { US } from "./units.gen";

export type Measure = Schemas["MeasureOut"];
export type System = "si" | "us";

export interface Shown {
  value: string;
  unit: string;
  doubt: string | null;
}

const MINUS = "−";

export function digits(value: number, decimals: number): string {
  const places = Math.max(0, decimals);
  const text = Math.abs(value).toLocaleString("en-GB", { minimumFractionDigits: places, maximumFractionDigits: places });
  return value < 0 && Number(text.replaceAll(",", "")) !== 0 ? MINUS + text : text;
}

/** A figure for a field: no trailing zeros, no separators. */
export function shortest(value: number, decimals: number): string {
  return String(Number(value.toFixed(decimals)));
}

/** A quantity in the chosen system: `[value, unit, decimals]`. */
export function convert(value: number, unit: string, decimals: number, system: System): [number, string, number] {
  if (system === "si" && unit === "m" && decimals >= 3) return [1000 * value, "mm", decimals - 3];
  const rule = system === "us" ? US[unit] : undefined;
  return rule ? [value * rule.factor, rule.unit, Math.max(0, decimals + rule.decimals)] : [value, unit === "deg" ? "°" : unit === "deg/s" ? "°/s" : unit, decimals];
}

/** A measure with its doubt, which is two standard uncertainties: the truth lies within in 19 of 20 strikes. */
export function show(measure: Measure, value: number | null | undefined, sd: number | null | undefined, system: System): Shown | null {
  if (value === null || value === undefined) return null;
  const [v, unit, decimals] = convert(value, measure.unit, measure.decimals, system);
  // force in newtons is never good to better than ten: the last figure would be noise
  const step = unit === "N" ? 10 : 1;
  const round = (x: number) => (step > 1 ? Math.round(x / step) * step : x);
  if (sd === null || sd === undefined) return { value: digits(round(v), decimals), unit, doubt: null };
  const doubt = convert(2 * sd, measure.unit, measure.decimals, system)[0];
  return { value: digits(round(v), decimals), unit, doubt: `±${digits(Math.max(round(doubt), 10 ** -decimals), decimals)}` };
}

const QUANTITY = /([−+]?[\d,]+(?:\.\d+)?)(?: to ([−+]?[\d,]+(?:\.\d+)?))? (N s|N(?! s)|m\/s|kg|J|mm|m)(?![\w/])/g;

/** A sentence of the server's, which speaks SI, with its quantities in the units that are set. */
export function said(text: string, system: System): string {
  if (system === "si") return text;
  return text.replace(QUANTITY, (whole, a: string, b: string | undefined, unit: string) => {
    const rule = US[unit];
    if (!rule) return whole;
    const one = (figure: string) => {
      const decimals = (figure.split(".")[1] ?? "").length;
      const value = Number(figure.replaceAll(",", "").replace("−", "-")) * rule.factor;
      return `${figure.startsWith("+") ? "+" : ""}${digits(value, Math.max(0, decimals + rule.decimals))}`;
    };
    return `${one(a)}${b === undefined ? "" : ` to ${one(b)}`} ${rule.unit}`;
  });
}

export function unitOf(measure: Measure, system: System): string {
  return convert(1, measure.unit, measure.decimals, system)[1];
}

const LIMBS: Record<string, string> = { hand: "hand", elbow: "elbow", knee: "knee", foot: "foot" };

export function limbName(limb: string): string {
  const [side, part] = limb.split("_");
  return part && LIMBS[part] ? `${side} ${LIMBS[part]}` : "not known";
}

const LANDED: Record<string, string> = { met: "on pads", air: "in the air" };

/** What a strike landed on, where that was no bag of ours. */
export function landed(kind: string): string {
  return LANDED[kind] ?? "";
}

/** `code;limb;key=level,...` of a planned set, or a code alone, in words. */
export function plannedName(planned: string, nameOf: (code: string) => string): string {
  const code = planned.split(";")[0]!.trim();
  return code === "called" ? "Round with calls" : code ? capital(nameOf(code)) : "Strike";
}

/** Many strikes of a family, by the name of one. */
export function familyName(family: string, nameOf: (code: string) => string): string {
  const [one, ...how] = nameOf(family).split(",");
  const many = one!.startsWith("elbow ") ? one!.replace("elbow", "elbows") : `${one}s`;
  return capital([many, ...how].join(","));
}

function capital(words: string): string {
  return words.charAt(0).toUpperCase() + words.slice(1);
}

export function clock(iso: string, plusSeconds: number, zone: string): string {
  return new Date(Date.parse(iso) + 1000 * plusSeconds).toLocaleTimeString("en-GB", { timeZone: zone });
}

export function day(iso: string, zone: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { timeZone: zone, weekday: "short", day: "numeric", month: "short" });
}

/** Today's date where the gym is, as forms and the server write it. */
export function today(zone: string): string {
  return new Date().toLocaleDateString("sv-SE", { timeZone: zone });
}

export function longDay(iso: string, zone = "UTC"): string {
  return new Date(iso).toLocaleDateString("en-GB", { timeZone: zone, day: "numeric", month: "long", year: "numeric" });
}

export function minutes(seconds: number): string {
  const whole = Math.round(seconds);
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

export function megabytes(bytes: number): string {
  return bytes < 100_000 ? `${Math.max(1, Math.round(bytes / 1000))} kB` : `${(bytes / 1e6).toFixed(1)} MB`;
}

/** A day without its year, as on an axis. */
export function shortDay(iso: string): string {
  return new Date(iso).toLocaleDateString("en-GB", { timeZone: "UTC", day: "numeric", month: "short" });
}

/** A day so many days later. */
export function shiftedDay(iso: string, by: number): string {
  const at = new Date(`${iso}T00:00:00Z`);
  at.setUTCDate(at.getUTCDate() + by);
  return at.toISOString().slice(0, 10);
}

/** A measure by its name, per body mass or not. */
export function findMeasure(registry: Schemas["Registry"], name: string): Measure | undefined {
  return [...registry.measures, ...registry.per_body_mass].find((m) => m.name === name);
}

/** Where a unit is worn, in words: leftwrist is the left wrist. */
export function placeName(place: string): string {
  return place.replace(/^(left|right)(?=.)/, "$1 ");
}

/** A unit by the gym's own name, its serial, or where it is worn. */
export function unitName(u: { name: string; serial: string; place: string }): string {
  return u.name || u.serial || `the one at the ${placeName(u.place)}`;
}

/** Remarks that fit a strike: those of its limb, then those for any. */
export function wordsFor(registry: Schemas["Registry"], limb: string): string[] {
  const family = /foot|knee/.test(limb) ? "kick" : limb.endsWith("elbow") ? "elbow" : "hand";
  return [...(registry.remarks[family] ?? []), ...(registry.remarks.any ?? [])];
}
