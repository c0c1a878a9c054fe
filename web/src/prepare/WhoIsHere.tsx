import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { Problem } from "../ui/state";
import { useCame } from "./came";

type Row = Schemas["Tonight"];

/** The class list: a tap marks who came, a tap on the name shows what tonight holds for them. */
export function WhoIsHere({ rows, chosen }: { rows: Row[]; chosen: number }) {
  const came = useCame();
  const navigate = useNavigate();
  return (
    <section aria-label="Who is here">
      <h2 className="wide-title text-lg">Who is here</h2>
      <ul className="mt-2">
        {rows.map((r) => (
          <li key={r.student_id} className={`flex min-h-16 items-center gap-3 border-t border-line ${r.student_id === chosen ? "bg-shade" : ""}`}>
            <button role="checkbox" aria-checked={r.here} aria-label={`${r.name} is here`} disabled={!!r.stopped} className="grid size-16 shrink-0 place-items-center disabled:opacity-60" onClick={() => came.mutate({ studentId: r.student_id, here: !r.here })}>
              <span className={`grid size-8 place-items-center rounded border-2 text-lg ${r.stopped ? "border-buoy" : "border-ink"} ${r.here ? "bg-ink text-ground" : ""}`}>{r.here ? "✓" : ""}</span>
            </button>
            <button className="flex min-h-16 min-w-0 flex-1 flex-wrap items-center justify-between gap-x-3 pr-2 text-left" onClick={() => void navigate(`/students/${r.student_id}/prepare`)}>
              <span className={`text-base ${r.student_id === chosen ? "font-bold" : ""}`}>
                {r.name}
                {r.child && r.age !== null && `, ${r.age}`}
              </span>
              <span className={`text-2xs ${r.stopped || r.soreness ? "font-semibold text-buoy-ink" : "text-soft"}`}>{note(r)}</span>
            </button>
          </li>
        ))}
      </ul>
      <Problem error={came.error} />
    </section>
  );
}

function note(r: Row): string {
  if (r.stopped) return "consent missing: may train, not be measured";
  if (r.soreness) return `sore: ${r.soreness}`;
  if (r.mass_due_days !== null) return `body mass noted ${Math.round(r.mass_due_days / 7)} weeks ago`;
  if (r.mass_kg === null) return "body mass not noted";
  if (r.trials.length) return r.trials.join(", ");
  return r.child ? "technique, no maximal testing" : "";
}
