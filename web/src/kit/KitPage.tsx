import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useBags } from "../api/queries";
import { useRemoval } from "../api/removal";
import { convert, digits, longDay } from "../format";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";
import { BagForm } from "./BagForm";
import { Calibrations } from "./Calibrations";
import { Stations } from "./Stations";
import { Units } from "./Units";

const MOUNTS: Record<string, string> = {
  swivel: "hangs free from a chain or strap",
  fixed: "turns about a fixed pivot above it",
  standing: "stands on its base",
  wall: "on the wall, with a load cell",
  held: "held by a partner",
};

/** Why there is another version of a bag. */
const WHY: Record<string, string> = { changed: "", learnt: "; more was learnt of it", corrected: "; a figure was corrected" };

export function KitPage() {
  const bags = useBags();
  const [editing, setEditing] = useState<number | "new" | null>(null);
  if (bags.isPending) return <Loading what="the kit" />;
  if (bags.error) return <Failed error={bags.error} retry={() => void bags.refetch()} />;
  return (
    <div className="mx-auto max-w-5xl p-6">
      <div className="flex items-center justify-between">
        <h1 className="wide-title text-2xl">Bags</h1>
        <div className="flex items-center gap-5">
          <Link className="plain py-1" to="/kit/guide">
            What to strap where
          </Link>
          <button className="action" onClick={() => setEditing("new")}>
            Add a bag
          </button>
        </div>
      </div>
      {editing === "new" && <BagForm close={() => setEditing(null)} />}
      {bags.data.length === 0 && editing !== "new" && (
        <Empty title="No bag yet">Weigh and measure the bag: force is only as sure as its mass.</Empty>
      )}
      {bags.data.map((bag) =>
        editing === bag.id ? (
          <BagForm key={bag.id} bag={bag} close={() => setEditing(null)} />
        ) : (
          <BagCard key={bag.id} bag={bag} change={() => setEditing(bag.id)} />
        ),
      )}
      <Stations />
      <Units />
      <Calibrations bags={bags.data} />
    </div>
  );
}

function BagCard({ bag, change }: { bag: Schemas["BagOut"]; change: () => void }) {
  const [units] = useUnits();
  const { remove, busy } = useRemoval();
  const now = bag.current;
  const q = (value: number, unit: string, decimals: number) => {
    const [v, u, d] = convert(value, unit, decimals, units);
    return `${digits(v, d)} ${u}`;
  };
  const facts: [string, string][] = [
    ["Mass", now.mass_sd_kg === null || now.mass_sd_kg === undefined ? q(now.mass_kg, "kg", 1) : `${q(now.mass_kg, "kg", 1)} ±${q(2 * now.mass_sd_kg, "kg", 1)}`],
    ["Filled with", now.filling === "water" ? "water: figures less sure" : "cloth, sand or foam"],
    ["Length, width", `${q(now.length_m, "m", 2)}, ${q(now.diameter_m, "m", 2)}`],
    ["Unit below the top", q(now.sensor_below_top_m, "m", 2)],
    ["Inertia", `${digits(now.inertia_used_kg_m2, 2)} kg m² ${now.inertia_cm_kg_m2 ? "(timed by its free swing)" : "(taken as a uniform cylinder)"}`],
    ["Head ends, body ends", `${q(now.bands_used_m[0]!, "m", 2)}, ${q(now.bands_used_m[1]!, "m", 2)} below the top`],
  ];
  if (now.mount === "swivel") facts.splice(3, 0, ["Chain", q(now.chain_m, "m", 2)]);
  if (now.mount === "fixed") facts.splice(3, 0, ["Pivot above the top", q(now.pivot_to_top_m, "m", 2)]);
  return (
    <article className="mt-5 border-t border-line pt-4">
      <div className="flex items-start justify-between">
        <div>
          <h2 className="wide-title text-xl">{bag.name}</h2>
          <p className="text-soft">
            {MOUNTS[now.mount] ?? now.mount}; {bag.recordings} recordings
          </p>
        </div>
        <span className="flex gap-4">
          <button className="plain py-1" disabled={busy} onClick={() => remove("bag", bag.id)} aria-label={`Remove ${bag.name}`}>
            Remove
          </button>
          <button className="action" onClick={change}>
            Change
          </button>
        </span>
      </div>
      <div className="mt-4 grid gap-x-10 gap-y-6 sm:grid-cols-2">
        <dl className="grid grid-cols-[10rem_1fr] gap-y-1">
          {facts.map(([what, value]) => (
            <div key={what} className="contents">
              <dt className="text-soft">{what}</dt>
              <dd className="numeric">{value}</dd>
            </div>
          ))}
        </dl>
        <Costs bag={bag} />
      </div>
      {bag.versions.length > 1 && (
        <details className="mt-3">
          <summary className="cursor-pointer py-1 text-soft">{bag.versions.length} versions</summary>
          <ul className="mt-1">
            {bag.versions.map((v) => (
              <li key={v.id} className="numeric py-1">
                since {longDay(v.since)}: {v.mount}, {q(v.mass_kg, "kg", 1)}, {q(v.length_m, "m", 2)} long{WHY[v.why]}
              </li>
            ))}
          </ul>
        </details>
      )}
    </article>
  );
}

function Costs({ bag }: { bag: Schemas["BagOut"] }) {
  const [units] = useUnits();
  const [per] = convert(2500, "N", 0, units);
  return (
    <section aria-label={`What doubts of ${bag.name} cost`}>
      <h3 className="font-semibold">
        What each doubt costs, on a strike of {digits(Math.round(per / 10) * 10, 0)} {convert(1, "N", 0, units)[1]}
      </h3>
      <table className="mt-1 w-full text-left">
        <tbody>
          {bag.costs.map((c) => {
            const [force, unit] = convert(2 * c.newtons, "N", 0, units);
            return (
              <tr key={c.what} className="border-b border-line align-top [&>*]:py-1.5 [&>*]:pr-3">
                <th className="font-normal">
                  {c.what} <span className="text-soft">{c.doubt}</span>
                </th>
                <td className="figure text-right whitespace-nowrap">
                  ±{digits(force, 0)} {unit}
                </td>
                <td className="w-1/2 text-soft max-sm:text-2xs">{c.remedy}</td>
              </tr>
            );
          })}
          {bag.height_doubt_mm !== null && (
            <tr className="align-top [&>*]:py-1.5 [&>*]:pr-3">
              <th className="font-normal">Inertia</th>
              <td className="figure text-right whitespace-nowrap">±{digits(2 * bag.height_doubt_mm, 0)} mm</td>
              <td className="text-soft">of hit height, not of force. Time the free swing to narrow it.</td>
            </tr>
          )}
        </tbody>
      </table>
    </section>
  );
}
