import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useRegistry, useStudent } from "../api/queries";
import { convert, digits, findMeasure, limbName } from "../format";
import { useAddress } from "../ui/address";
import { MeasureName } from "../ui/MeasureName";
import { useUnits } from "../ui/settings";
import { Failed, Loading } from "../ui/state";
import { useStrikeName } from "../ui/StrikePicker";

type Page = Schemas["GoesWithOut"];
type Tie = Schemas["TieOut"];

const read = (params: URLSearchParams) => ({ code: params.get("code") ?? "", limb: params.get("limb") ?? "" });

/** What of a student's body goes with force, strike by strike; never what causes it. */
export function ForcePage() {
  const studentId = Number(useParams().studentId);
  const [view, change] = useAddress(read);
  const student = useStudent(studentId);
  const registry = useRegistry();
  const nameOf = useStrikeName();
  const page = useQuery({
    queryKey: ["weeks", studentId, "goes-with", view],
    retry: false,
    queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/goes-with", { params: { path: { student_id: studentId }, query: view } })),
  });
  const failed = student.error ?? registry.error ?? page.error;
  if (failed) return <Failed error={failed} />;
  if (!student.data || !registry.data || !page.data) return <Loading what="what goes with force" />;
  const p = page.data;
  return (
    <div className="mx-auto max-w-5xl px-6 py-4">
      <div className="no-print flex flex-wrap items-center gap-3 text-2xs">
        <select aria-label="Strike" className="field font-semibold" value={p.code} onChange={(e) => change({ code: e.target.value, limb: "" })}>
          {p.codes.map((c) => (
            <option key={c} value={c}>
              {nameOf(c)}
            </option>
          ))}
        </select>
        {p.limbs.length > 1 && (
          <select aria-label="Limb" className="field" value={p.limb} onChange={(e) => change({ limb: e.target.value })}>
            {p.limbs.map((l) => (
              <option key={l} value={l}>
                {limbName(l)}
              </option>
            ))}
          </select>
        )}
        <span className="ml-auto flex gap-3">
          <Link className="plain py-2" to={`/students/${studentId}/weeks?code=${p.code}`}>
            Weeks
          </Link>
          <button className="plain py-2" onClick={() => window.print()}>
            Print
          </button>
        </span>
      </div>
      <h1 className="wide-title mt-3 text-2xl leading-tight sm:text-3xl">{headline(p, registry.data)}</h1>
      <p className="mt-1 max-w-3xl text-soft">
        {student.data.name}, {nameOf(p.code)}: {p.strikes} strikes in {p.sets} sets on {p.evenings} evenings, each against the mean of its own set. {shown(p)} What goes with force need not bring it: only a trial tells.
      </p>
      {p.ties.length > 0 && <Thirds ties={p.ties} registry={registry.data} />}
      {p.proposal && (
        <p className="no-print mt-5 flex flex-wrap items-center gap-x-4 border-l-4 border-oar pl-3">
          <span>
            What would test it: <b>{p.proposal.levels.join(" against ")}</b>.
          </span>
          <Link className="action-main inline-flex min-h-11 items-center" to={`/trials/new?student=${studentId}&code=${p.code}&factor=${encodeURIComponent(p.proposal.factor)}&levels=${encodeURIComponent(p.proposal.levels.join("|"))}`}>
            Plan this trial
          </Link>
        </p>
      )}
      {p.left_out.length > 0 && <p className="mt-4 text-2xs text-soft">Left out. {p.left_out.join("; ")}.</p>}
    </div>
  );
}

function headline(p: Page, registry: Schemas["Registry"]): string {
  if (p.refused) return `It can’t be told yet: ${p.refused}.`;
  const told = p.ties.filter((t) => t.goes).sort((a, b) => Math.abs(b.shrunk) - Math.abs(a.shrunk));
  if (told.length === 0) {
    return "Nothing of the body goes with force beyond doubt.";
  }
  return `${told.map((t) => `${t.shrunk > 0 ? "More" : "Less"} ${findMeasure(registry, t.measure)!.label.toLowerCase()}`).join(", ")}: harder.`;
}

/** How large a tie would have to be to show. */
function shown(p: Page): string {
  if (p.refused || p.ties.some((t) => t.goes)) return "";
  return `A tie of ${digits(Math.max(...p.ties.map((t) => t.partial.high - t.partial.low)), 0)}\u00a0% would likely have shown.`;
}

const WIDE = 260;
const MOST = 1.2; //: usual steps that a mark may stand off the middle

/** The heaviest third of every set over the lightest, from the floor up; beside it what goes with force. */
function Thirds({ ties, registry }: { ties: Tie[]; registry: Schemas["Registry"] }) {
  const [units] = useUnits();
  return (
    <section aria-label="From the floor up" className="mt-5">
      <p className="flex flex-wrap gap-x-6">
        <span>
          <span className="text-oar">●</span> the heaviest third of each set
        </span>
        <span>
          <span className="text-buoy-ink">◇</span> the lightest third
        </span>
        <span className="text-soft">bars: 95 %</span>
      </p>
      <div className="overflow-x-auto">
        <table className="mt-1 w-full">
          <thead>
            <tr className="border-b-2 border-ink text-left text-2xs">
              <th className="py-1 pr-3 font-semibold">From the floor up ↑</th>
              <th className="py-1 font-semibold">Lightest and heaviest third</th>
              <th className="py-1 pr-3 text-right font-semibold">
                Impulse for
                <br />
                one usual step more
              </th>
              <th className="py-1 text-right font-semibold">
                Between
                <br />
                evenings
              </th>
            </tr>
          </thead>
          <tbody>
            {[...ties].reverse().map((t) => {
              const measure = findMeasure(registry, t.measure)!;
              const [step, unit, d] = convert(t.spread, measure.unit, measure.decimals, units);
              const told = (value: number) => {
                const [v, , places] = convert(value, measure.unit, measure.decimals, units);
                return digits(v, places);
              };
              return (
                <tr key={t.measure} className="border-b border-line align-middle">
                  <th scope="row" className="max-w-60 py-1.5 pr-3 text-left font-normal">
                    <MeasureName measure={measure} text={measure.label} />
                  </th>
                  <td className="py-1.5">
                    <Marks tie={t} told={told} />
                  </td>
                  <td className="py-1.5 pr-3 text-right whitespace-nowrap">
                    <b className={`figure ${t.goes ? "text-base" : "font-normal"}`}>{signed(t.goes ? t.shrunk : t.partial.value)} %</b>{" "}
                    <span className="numeric text-2xs text-soft">
                      ({signed(t.partial.low)} to {signed(t.partial.high)})
                    </span>
                    <span className="block text-2xs text-soft">
                      {t.goes && <b className="text-ink">goes with it; </b>}a step is {digits(step, step < 1 ? Math.max(d, 2) : d)} {unit}
                    </span>
                  </td>
                  <td className="numeric py-1.5 text-right text-2xs whitespace-nowrap text-soft">{t.evenings ? `${signed(t.evenings.value)} % (${signed(t.evenings.low)} to ${signed(t.evenings.high)})` : "too few"}</td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function signed(value: number): string {
  return `${value > 0 ? "+" : ""}${digits(value, 1)}`;
}

function Marks({ tie, told }: { tie: Tie; told: (value: number) => string }) {
  const middle = (tie.heavy.value + tie.light.value) / 2;
  const x = (value: number) => WIDE * (0.5 + Math.max(-0.48, Math.min(0.48, (0.5 * (value - middle)) / (tie.spread * MOST))));
  return (
    <svg width={WIDE} height={26} role="img" aria-label={`heaviest third ${told(tie.heavy.value)}, lightest third ${told(tie.light.value)}`}>
      <line x1={0} x2={WIDE} y1={13} y2={13} stroke="var(--line)" />
      <line x1={x(tie.light.low)} x2={x(tie.light.high)} y1={18} y2={18} stroke="var(--buoy)" strokeWidth={2} />
      <rect x={x(tie.light.value) - 4} y={14} width={8} height={8} transform={`rotate(45 ${x(tie.light.value)} 18)`} fill="var(--ground)" stroke="var(--buoy)" strokeWidth={1.6} />
      <line x1={x(tie.heavy.low)} x2={x(tie.heavy.high)} y1={8} y2={8} stroke="var(--oar)" strokeWidth={2} />
      <circle cx={x(tie.heavy.value)} cy={8} r={5} fill="var(--oar)" />
    </svg>
  );
}
