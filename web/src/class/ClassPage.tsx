import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useClass } from "../api/trials";
import { DECISIONS } from "../compare/words";
import { StrikeName } from "../ui/StrikePicker";
import { digits, findMeasure, longDay, said } from "../format";
import { useRegistry } from "../api/queries";
import { MeasureName } from "../ui/MeasureName";
import { Late } from "../ui/Late";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";
import { SeeTo } from "./SeeTo";
import { SmallInterval } from "./SmallInterval";

const GROUPS = [
  { key: "gained", name: "Gained" },
  { key: "faded", name: "A gain that faded" },
  { key: "lost", name: "Lost by it" },
  { key: "same", name: "No difference" },
  { key: "open", name: "Not settled" },
  { key: "begun", name: "Just begun" },
  { key: "refused", name: "No fair comparison" },
] as const;

/** Who gained from which change, who did not, what is not settled, and what would settle it soonest. */
export function ClassPage() {
  const told = useClass();
  const [units] = useUnits();
  if (told.error) return <Failed error={told.error} retry={() => void told.refetch()} />;
  if (!told.data) return <Loading what="the class" />;
  const { rows, pooled, cheapest } = told.data;
  if (rows.length === 0)
    return (
      <div className="mx-auto max-w-7xl px-6 py-4">
        <SeeTo />
        <Empty title="No trials yet">
          Choose a student, then Compare, and{" "}
          <Link className="plain" to="/trials/new">
            plan a trial
          </Link>
          .
        </Empty>
      </div>
    );
  const most = Math.max(10, ...rows.flatMap((r) => (r.told.claim.ci95_pct ?? []).map((v) => Math.min(60, Math.abs(v ?? 0)))));
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <h1 className="wide-title text-xl sm:text-3xl">{headline(rows)}</h1>
      <Link className="plain no-print inline-flex min-h-9 items-center" to="/class/plan">
        The class’s week
      </Link>
      <Late late={told.data.late} />
      <SeeTo />
      {cheapest.length > 0 && (
        <section aria-label="This week" className="mt-2 border-l-4 border-buoy pl-3">
          <h2 className="wide-title text-base">Cheapest to settle this week</h2>
          {cheapest.slice(0, 3).map((c) => (
            <p key={`${c.trial} ${c.student}`}>
              <Link className="plain font-semibold" to={`/trials/${c.trial}/sheet?student=${rows.find((r) => r.trial === c.trial && r.student === c.student)?.student_id}`}>
                {c.student}
              </Link>
              : {c.needed}
            </p>
          ))}
        </section>
      )}
      {GROUPS.map(({ key, name }) => {
        const own = rows.filter((r) => r.told.outcome === key);
        return own.length === 0 ? null : (
          <section key={key} aria-label={name} className="mt-5">
            <h2 className="wide-title text-lg">{name}</h2>
            <table className="w-full table-fixed text-left max-sm:block">
              <tbody className="max-sm:block">
                {own.map((r) => (
                  <Row key={`${r.trial} ${r.student_id}`} row={r} most={most} />
                ))}
              </tbody>
            </table>
          </section>
        );
      })}
      {pooled.length > 0 && (
        <section aria-label="Together" className="mt-6 border-t border-line pt-3">
          <h2 className="wide-title text-lg">Students under one trial, together</h2>
          {pooled.map((p) => (
            <p key={p.trial} className="py-1">
              {p.told.sentence.before} <b>{said(p.told.sentence.figures, units)}</b> {p.told.sentence.after}{" "}
              {p.told.claim.pooled && (
                <span className="text-soft">
                  A student who has not tried it yet may change by {digits(p.told.claim.pooled.next_student_pct[0] ?? 0, 0)} to {digits(p.told.claim.pooled.next_student_pct[1] ?? 0, 0)} %.
                </span>
              )}
            </p>
          ))}
        </section>
      )}
    </div>
  );
}

function Row({ row, most }: { row: Schemas["ClassRow"]; most: number }) {
  const { told } = row;
  const [units] = useUnits();
  const registry = useRegistry().data;
  const measure = registry && findMeasure(registry, row.measure);
  const pct = told.claim.effect_pct;
  return (
    <tr className="border-t border-line max-sm:grid max-sm:grid-cols-[1fr_auto] max-sm:gap-y-1 max-sm:py-2">
      <th scope="row" className="w-32 py-2 pr-2 font-semibold max-sm:w-auto max-sm:py-1 lg:w-44">
        <Link className="plain" to={`/students/${row.student_id}/compare?trial=${row.trial}`}>
          {row.student}
        </Link>
      </th>
      <td className="w-52 py-2 pr-4 max-sm:order-1 max-sm:col-span-2 max-sm:w-auto max-sm:py-0 lg:w-72">
        {row.levels.slice(1).join(", ")}
        <span className="block text-2xs text-soft">
          against {row.levels[0]}, <StrikeName code={row.code} />
          {measure && (
            <>
              , <MeasureName measure={measure} text={measure.label.toLowerCase()} />
            </>
          )}
        </span>
      </td>
      <td className="numeric w-20 py-2 text-right max-sm:py-1">{pct === null ? "" : <b className="figure text-lg">{`${pct > 0 ? "+" : ""}${digits(pct, 0)} %`}</b>}</td>
      <td className="hidden w-56 px-3 py-2 lg:table-cell">{told.claim.ci95_pct && <SmallInterval told={told} most={most} />}</td>
      <td className="px-3 py-2 text-2xs max-sm:order-2 max-sm:col-span-2 max-sm:px-0 max-sm:py-0">{told.claim.refused ? `${told.claim.refused[0]!.toUpperCase()}${told.claim.refused.slice(1)}.` : said([told.worth_settling ? "" : told.needed, told.claim.notes.find((n) => n.warn)?.text, told.trade].filter(Boolean).join(" "), units)}</td>
      <td className="w-24 py-2 text-right text-2xs max-sm:order-3 max-sm:col-span-2 max-sm:w-auto max-sm:py-0 max-sm:text-left lg:w-32">
        {row.decision ? (
          <>
            <b>{DECISIONS[row.decision]}</b>
            <span className="block text-soft">{row.decided_on && longDay(String(row.decided_on))}</span>
          </>
        ) : (
          <span className="text-soft">not decided</span>
        )}
      </td>
    </tr>
  );
}

function headline(rows: Schemas["ClassRow"][]): string {
  const count = (key: string) => rows.filter((r) => r.told.outcome === key).length;
  const parts = [
    [count("gained"), "gained"],
    [count("faded"), "gained and lost it again"],
    [count("lost"), "lost by it"],
    [count("same"), "saw no difference"],
    [count("open"), "not settled"],
    [count("begun"), "just begun"],
    [count("refused"), "not comparable"],
  ].filter(([n]) => n);
  const text = parts.map(([n, what]) => `${n} ${what}`).join(", ");
  return text[0]!.toUpperCase() + text.slice(1) + ".";
}
