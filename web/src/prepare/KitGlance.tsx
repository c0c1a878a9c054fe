import { useRef } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { LOW_PCT, silent } from "../bag/heard/kit";
import { useKit } from "../bag/heard/take";
import { placeName } from "../format";
import { Radios } from "../ui/Radios";

const KEPT = 24; // seconds of movement that are drawn
const TAPPED = 4; // rad/s, or N for soles, against what came before

interface Props {
  stations: Schemas["StationRow"][];
  station: Schemas["StationRow"] | undefined;
  choose: (id: number) => void;
}

/** Each unit of a station: whether it is there, how full, and whether it feels a tap, so that the right one is on the right limb. */
export function KitGlance({ stations, station, choose }: Props) {
  const kit = useKit(station?.id ?? null);
  const drawn = useRef<Record<string, number[]>>({});
  const seen = useRef(kit);
  if (seen.current !== kit) {
    seen.current = kit;
    for (const [place, state] of Object.entries(kit)) drawn.current[place] = [...(drawn.current[place] ?? []), silent(state) ? -1 : state.moved].slice(-KEPT);
  }
  const places = Object.keys(kit).sort((a, b) => Number(b === "bag") - Number(a === "bag") || a.localeCompare(b));
  const silentOne = places.find((p) => silent(kit[p]!));
  const untapped = places.find((p) => !felt(drawn.current[p] ?? []));
  return (
    <>
      <h2 className="wide-title text-lg">Kit at {station?.name ?? "the bag"}</h2>
      {stations.length > 1 && (
        <Radios name="Station" values={stations} chosen={station ?? null} choose={(s) => choose(s.id)} tell={(s) => s.name} keyOf={(s) => s.id} className="mt-2 flex flex-wrap gap-2" each="min-h-12" />
      )}
      {!station ? (
        <p className="mt-2 text-soft">
          No station yet.{" "}
          <Link className="plain" to="/kit#stations">
            Make one under Kit
          </Link>
          , or try a simulated student under Measure.
        </p>
      ) : places.length === 0 ? (
        <p className="mt-2 text-soft">No hub sends from here yet. Switch it on.</p>
      ) : (
        <>
          <ul className="mt-2">
            {places.map((place) => {
              const state = kit[place]!;
              const low = (state.battery_pct ?? 100) < LOW_PCT;
              return (
                <li key={place} className="flex min-h-11 items-center gap-3 border-b border-line">
                  <b className="w-24">{placeName(place)}</b>
                  <Moved values={drawn.current[place] ?? []} />
                  <span className={silent(state) || low ? "font-semibold text-buoy-ink" : "text-soft"}>
                    {silent(state) ? "silent: wake it" : `${state.battery_pct === null ? "" : `${Math.round(state.battery_pct)} %`}${low ? ", charge it" : felt(drawn.current[place] ?? []) ? ", felt the tap" : ""}`}
                  </span>
                </li>
              );
            })}
          </ul>
          <p className="mt-2 font-semibold">{silentOne ? `Wake the ${placeName(silentOne)}.` : untapped ? `Tap the ${placeName(untapped)} twice: only its line should jump.` : "All of them felt their tap."}</p>
          <p className="text-soft">With units on the body: three firm stamps at the start and at the end tie their clocks.</p>
        </>
      )}
    </>
  );
}

function felt(values: number[]): boolean {
  const quiet = [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? 0;
  return values.some((v) => v > quiet + TAPPED);
}

function Moved({ values }: { values: number[] }) {
  const top = Math.max(4, ...values);
  const points = values.map((v, k) => `${(100 * k) / (KEPT - 1)},${20 - (17 * Math.max(0, v)) / top}`).join(" ");
  return (
    <svg viewBox="0 0 100 24" className="h-6 w-24 shrink-0" aria-hidden="true">
      <polyline points={points} fill="none" stroke="var(--ink)" strokeWidth={1.6} />
    </svg>
  );
}
