import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useRegistry, useSchools } from "../api/queries";
import { useRemoval } from "../api/removal";
import { convert, findMeasure, shortest, unitOf, type System } from "../format";
import { MeasureName } from "../ui/MeasureName";
import { useUnits } from "../ui/settings";
import { Failed, Loading } from "../ui/state";
import { useStrikeName } from "../ui/StrikePicker";
import { Earlier } from "./Earlier";
import { SchoolForm } from "./SchoolForm";

const NEW: Schemas["SchoolIn"] = { name: "", belief: "", objects_to: [], checks: [], version: 0 };

/** The gym's schools: what each holds, and the ranges by which strikes thrown under it are judged. */
export function Schools() {
  const schools = useSchools();
  const registry = useRegistry();
  const [editing, setEditing] = useState<number | "new" | null>(null);
  const failed = schools.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void schools.refetch()} />;
  if (!schools.data || !registry.data) return <Loading what="the playbook" />;
  return (
    <section aria-label="Schools">
      <div className="flex items-center justify-between gap-4">
        <div>
          <p className="mt-1 max-w-2xl text-soft">
            Coaches disagree, and each way has its price. A strike is judged by the school that its set was thrown under; what another school would object stands beside it, in the student’s own
            numbers. None of them is called right.
          </p>
        </div>
        <button className="action shrink-0" onClick={() => setEditing("new")}>
          Add a school
        </button>
      </div>
      {editing === "new" && <SchoolForm school={NEW} registry={registry.data} close={() => setEditing(null)} />}
      {schools.data.map((school) =>
        editing === school.id ? (
          <SchoolForm key={school.id} id={school.id} school={textOf(school)} registry={registry.data} close={() => setEditing(null)} />
        ) : (
          <SchoolCard key={school.id} school={school} registry={registry.data} change={() => setEditing(school.id)} />
        ),
      )}
    </section>
  );
}

/** A school as its form sends it. */
function textOf({ name, belief, objects_to, checks, version }: Schemas["SchoolOut"]): Schemas["SchoolIn"] {
  return { name, belief, objects_to, checks, version };
}

function SchoolCard({ school, registry, change }: { school: Schemas["SchoolOut"]; registry: Schemas["Registry"]; change: () => void }) {
  const nameOf = useStrikeName();
  const [units] = useUnits();
  const { remove, busy } = useRemoval();
  return (
    <article className="mt-6 border-t border-line pt-4">
      <div className="flex items-start justify-between gap-4">
        <div>
          <h2 className="wide-title text-xl first-letter:uppercase">{school.name}</h2>
          <p className="text-soft">{school.belief}</p>
        </div>
        <span className="flex gap-4">
          <button className="plain py-1" disabled={busy} onClick={() => remove("school", school.id)} aria-label={`Remove ${school.name}`}>
            Remove
          </button>
          <button className="action" onClick={change} aria-label={`Change ${school.name}`}>
            Change
          </button>
        </span>
      </div>
      <table className="mt-2 w-full text-left">
        <thead className="sr-only">
          <tr>
            <th>Check</th>
            <th>Measure</th>
            <th>Range</th>
            <th>Strikes</th>
          </tr>
        </thead>
        <tbody>
          {school.checks.map((c) => (
            <tr key={c.name} className="border-b border-line [&>td]:py-1.5 [&>td]:pr-3">
              <td className="font-semibold">{c.name}</td>
              <td className="text-soft">{findMeasure(registry, c.measure) ? <MeasureName measure={findMeasure(registry, c.measure)!} /> : c.measure}</td>
              <td className="numeric">{range(c, registry, units)}</td>
              <td className="text-soft">{c.strikes?.length ? c.strikes.map(nameOf).join("; ") : "every strike"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <Earlier
        about={`school ${school.id} ${school.version}`}
        load={async () => unwrap(await client.GET("/api/schools/{school_id}/versions", { params: { path: { school_id: school.id } } }))}
        told={({ text }) => `${text.name}, ${text.checks.map((c) => `${c.name.toLowerCase()} ${range(c, registry, units)}`).join("; ")}`}
        stand={async ({ text }) => unwrap(await client.PUT("/api/schools/{school_id}", { params: { path: { school_id: school.id } }, body: { ...text, version: school.version } }))}
        refresh={["schools", "strike"]}
      />
    </article>
  );
}

function range(c: Schemas["CheckText"], registry: Schemas["Registry"], units: System): string {
  const measure = findMeasure(registry, c.measure);
  const unit = measure ? unitOf(measure, units) : "";
  const shown = (v: number) => (measure ? shortest(convert(v, measure.unit, measure.decimals, units)[0], 2) : String(v)).replace("-", "−");
  if (c.measure === "chain_order") return "pelvis, torso, then the limb";
  const [low, high] = [c.low ?? null, c.high ?? null];
  const text = low !== null && high !== null ? `${shown(low)} to ${shown(high)}` : low !== null ? `above ${shown(low)}` : `under ${shown(high ?? 0)}`;
  return `${text} ${unit}`;
}
