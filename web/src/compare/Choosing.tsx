import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useRemoval } from "../api/removal";
import { useEndTrial } from "../api/trials";
import { type Measure } from "../format";
import type { useView } from "./view";
import { useStrikeName } from "../ui/StrikePicker";

interface Props {
  trial: Schemas["TrialOut"];
  trials: Schemas["TrialOut"][];
  studentId: number;
  registry: Schemas["Registry"];
  measure: Measure | undefined;
  view: ReturnType<typeof useView>[0];
  change: ReturnType<typeof useView>[1];
}

/** Which trial, which levels, which measure, what is worth having, whose. */
export function Choosing({ trial, trials, studentId, registry, measure, view, change }: Props) {
  const nameOf = useStrikeName();
  const end = useEndTrial();
  const { remove, busy } = useRemoval(() => change({ trial: undefined }));
  const pairs = trial.levels.flatMap((a, i) => trial.levels.slice(i + 1).map((b) => [a, b] as const));
  const csv = `/api/trials/${trial.id}/strikes.csv?${new URLSearchParams({ ...(view.everybody ? {} : { student_id: String(studentId) }), ...(measure ? { measure: measure.name } : {}) }).toString()}`;
  const whole = new URLSearchParams({ measure: measure?.name ?? "", levels: view.levels, only: view.only });
  if (!view.everybody) whole.set("student_id", String(studentId));
  if (view.worth !== undefined) whole.set("worth_pct", String(view.worth));
  return (
    <div className="no-print flex flex-wrap items-center gap-x-3 gap-y-2 text-2xs">
      <select aria-label="Trial" className="field max-w-80 font-semibold" value={trial.id} onChange={(e) => change({ trial: e.target.value, measure: undefined, levels: undefined, only: undefined, everybody: undefined, worth: undefined })}>
        {trials.map((t) => (
          <option key={t.id} value={t.id}>
            {t.factor}, {nameOf(t.code)}
            {t.ended_on ? "" : " (running)"}
          </option>
        ))}
      </select>
      {pairs.length > 1 && (
        <select aria-label="Levels" className="field max-w-64" value={view.levels || pairs[0]!.join("|")} onChange={(e) => change({ levels: e.target.value })}>
          {pairs.map((p) => (
            <option key={p.join("|")} value={p.join("|")}>
              {p[1]} against {p[0]}
            </option>
          ))}
        </select>
      )}
      <select aria-label="Measure" className="field max-w-52" value={measure?.name ?? trial.measure} onChange={(e) => change({ measure: e.target.value })}>
        <optgroup label="This trial">
          {[trial.measure, ...trial.watch].map((name) => (
            <option key={name} value={name}>
              {registry.measures.find((m) => m.name === name)?.label ?? name}
              {name === trial.measure ? " (decides)" : ""}
            </option>
          ))}
        </optgroup>
        <optgroup label="Per body mass">
          {registry.per_body_mass.map((m) => (
            <option key={m.name} value={m.name}>
              {m.label}
            </option>
          ))}
        </optgroup>
        <optgroup label="All others">
          {registry.measures
            .filter((m) => m.numeric && m.name !== trial.measure && !trial.watch.includes(m.name))
            .map((m) => (
              <option key={m.name} value={m.name}>
                {m.label}
              </option>
            ))}
        </optgroup>
      </select>
      <label className="flex items-center gap-2">
        Worth having from
        <input className="field w-20" type="number" min={0.5} max={99} step={0.5} placeholder={trial.worth_pct ? String(trial.worth_pct) : "own"} value={view.worth ?? ""} onChange={(e) => change({ worth: e.target.value || undefined })} />%
      </label>
      {trial.students.length > 1 && (
        <label className="flex min-h-9 items-center gap-2">
          <input type="checkbox" className="size-5" checked={view.everybody} onChange={(e) => change({ everybody: e.target.checked ? "1" : undefined })} />
          everyone in it ({trial.students.length})
        </label>
      )}
      {view.only && (
        <button className="action" onClick={() => change({ only: undefined })}>
          Only {view.only.split("=").slice(1).join("=")} ✕
        </button>
      )}
      <span className="ml-auto flex flex-wrap items-center gap-x-3">
        <Link className="plain py-2" to={`/trials/${trial.id}/sheet?student=${studentId}`}>
          Sheet
        </Link>
        <Link className="plain py-2" to={`/trials/${trial.id}/edit?student=${studentId}`}>
          Change
        </Link>
        <button className="plain py-2" disabled={end.isPending} onClick={() => end.mutate({ id: trial.id, ended: !trial.ended_on, version: trial.version })}>
          {trial.ended_on ? "Run on" : "End"}
        </button>
        <button className="plain py-2" disabled={busy} onClick={() => remove("trial", trial.id)}>
          Remove
        </button>
        <a className="plain py-2" href={csv} download>
          CSV
        </a>
        <a className="plain py-2" href={`/api/trials/${trial.id}/claim.zip?${whole.toString()}`} download title="The claim with its strikes, its decisions, and the command that computes it again">
          Claim
        </a>
        <button className="plain py-2" onClick={() => window.print()}>
          Print
        </button>
        <Link className="action inline-flex items-center" to={`/trials/new?student=${studentId}`}>
          New trial
        </Link>
      </span>
    </div>
  );
}
