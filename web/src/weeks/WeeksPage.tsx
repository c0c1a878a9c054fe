import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRegistry, useStudents } from "../api/queries";
import { useWeeks } from "../api/trials";
import { StrikeName, useStrikeName } from "../ui/StrikePicker";
import { DrillsOfWeeks } from "../evening/Drills";
import { convert, digits, findMeasure, limbName, longDay, shortDay, unitOf, type Measure, type System } from "../format";
import { Late } from "../ui/Late";
import { MeasureName } from "../ui/MeasureName";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";
import { CourseChart } from "./CourseChart";
import { MarkForm } from "./MarkForm";
import { Sides } from "./Sides";
import { Volume } from "./Volume";

/** One student, one strike, one measure over weeks: typical, not best; what happened at each change, with its doubt. */
export function WeeksPage() {
  const nameOf = useStrikeName();
  const studentId = Number(useParams().studentId);
  const [params, setParams] = useSearchParams();
  const registry = useRegistry();
  const name = params.get("measure") ?? ""; // the server knows what comes first
  const weeks = useWeeks(studentId, params.get("code") ?? "", name, params.get("all") !== "1", params.get("limb") ?? "");
  const change = (key: string, value: string) =>
    setParams(
      (old) => {
        const next = new URLSearchParams(old);
        if (value) next.set(key, value);
        else next.delete(key);
        return next;
      },
      { replace: true },
    );
  const failed = weeks.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void weeks.refetch()} />;
  if (!weeks.data || !registry.data) return <Loading what="the weeks" />;
  const measure = findMeasure(registry.data, weeks.data.measure);
  if (!measure || weeks.data.codes.length === 0)
    return (
      <Empty title="No weeks yet">
        <Link className="plain" to={`/students/${studentId}/bring`}>
          Bring in a recording
        </Link>{" "}
        whose strikes are labelled, and its evening appears here.
      </Empty>
    );
  return (
    <div className="px-6 py-4">
      <div className="no-print flex flex-wrap items-center gap-3 text-2xs">
        <select aria-label="Strike" className="field font-semibold" value={weeks.data.code} onChange={(e) => change("code", e.target.value)}>
          {weeks.data.codes.map((c) => (
            <option key={c} value={c}>
              {nameOf(c)}
            </option>
          ))}
        </select>
        <select aria-label="Measure" className="field max-w-60" value={measure.name} onChange={(e) => change("measure", e.target.value)}>
          {[...registry.data.measures.filter((m) => m.numeric), ...registry.data.per_body_mass].map((m) => (
            <option key={m.name} value={m.name}>
              {m.label}
            </option>
          ))}
        </select>
        <MeasureName measure={measure} text="What is it?" />
        {weeks.data.limbs.length > 1 && (
          <select aria-label="Limb" className="field" value={weeks.data.limb} onChange={(e) => change("limb", e.target.value)}>
            {weeks.data.limbs.map((l) => (
              <option key={l} value={l}>
                {limbName(l)} alone
              </option>
            ))}
            <option value="both">both in one</option>
          </select>
        )}
        <label className="flex min-h-9 items-center gap-2">
          <input type="checkbox" className="size-5" checked={params.get("all") === "1"} onChange={(e) => change("all", e.target.checked ? "1" : "")} />
          with what was only being tried
        </label>
        <span className="ml-auto flex gap-3">
          <a className="plain py-2" download href={`/api/students/${studentId}/weeks.csv?measure=${measure.name}&code=${weeks.data.code}`}>
            CSV
          </a>
          <button className="plain py-2" onClick={() => window.print()}>
            Print
          </button>
          <Link className="plain py-2" to={`/students/${studentId}/force?code=${weeks.data.code}`}>
            What goes with force
          </Link>
          <Link className="plain py-2" to={`/students/${studentId}/report`}>
            Report
          </Link>
        </span>
      </div>
      <Told weeks={weeks.data} measure={measure} studentId={studentId} registry={registry.data} />
    </div>
  );
}

function Told({ weeks, measure, studentId, registry }: { weeks: Schemas["WeeksOut"]; measure: Measure; studentId: number; registry: Schemas["Registry"] }) {
  const [units] = useUnits();
  const students = useStudents();
  const course = weeks.course;
  return (
    <>
      <p className="hidden text-base print:block">
        {students.data?.find((s) => s.id === studentId)?.name}: <StrikeName code={weeks.code} />, {measure.label.toLowerCase()}
      </p>
      <Headline weeks={weeks} measure={measure} units={units} />
      <Late late={weeks.late} />
      {course?.notes.map((n) => (
        <p key={n} className="mt-2 max-w-4xl border-l-4 border-buoy pl-3">
          {n}
        </p>
      ))}
      <div className="mt-3 grid gap-8 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div className="min-w-0">
          {course && course.evenings.length > 0 ? (
            <CourseChart weeks={weeks} measure={measure} studentId={studentId} />
          ) : (
            <p className="py-8 text-soft">No evening holds three strikes with this measure: choose another, or another strike.</p>
          )}
          <p className="text-2xs text-soft">
            {measure.label.toLowerCase()}, {unitOf(measure, units)}: the mean of every evening with its 95 % interval; the shaded band is what chance alone gives about the first evenings{weeks.bests.length > 0 && "; stars beat all before them beyond doubt"}.
          </p>
          <Volume weeks={weeks.volume} marks={weeks.marks} />
        </div>
        <div className="min-w-0 space-y-4">
          <AtMarks weeks={weeks} measure={measure} units={units} />
          <Sides sides={weeks.sides} behind={weeks.behind} code={weeks.code} />
          <MarkForm studentId={studentId} marks={weeks.marks} />
        </div>
      </div>
      <DrillsOfWeeks studentId={studentId} registry={registry} />
    </>
  );
}

/** Where the student is now, and where it goes. */
function Headline({ weeks, measure, units }: { weeks: Schemas["WeeksOut"]; measure: Measure; units: System }) {
  const last = weeks.course?.evenings.at(-1);
  const first = weeks.course?.evenings[0];
  if (!last || !first || last.mean === null || first.mean === null) return <h1 className="wide-title mt-3 text-3xl">Weeks</h1>;
  const [v, unit, d] = convert(last.mean, measure.unit, measure.decimals, units);
  const [low, , ld] = convert(last.ci95[0] ?? last.mean, measure.unit, measure.decimals, units);
  const [high] = convert(last.ci95[1] ?? last.mean, measure.unit, measure.decimals, units);
  const slope = weeks.course?.slope_per_week_last ?? weeks.course?.slope_per_week;
  return (
    <h1 className="wide-title mt-3 text-3xl leading-tight">
      <span className="figure">
        {digits(v, d)} {unit}
      </span>{" "}
      <span className="text-lg font-normal text-soft">
        ({digits(low, ld)} to {digits(high, ld)}) on {shortDay(last.on)}, typical of {last.strikes} strikes.
        {slope && slope.value !== null && ` ${slopeText(slope, measure, units)}`}
      </span>
    </h1>
  );
}

function slopeText(slope: Schemas["ToldOut"], measure: Measure, units: System): string {
  const [low, high] = slope.ci95.map((v) => convert(v ?? 0, measure.unit, measure.decimals, units)[0]) as [number, number];
  const [value, unit, d] = convert(slope.value ?? 0, measure.unit, measure.decimals, units);
  const sure = low > 0 ? "It rises by" : high < 0 ? "It falls by" : null;
  return sure ? `${sure} ${digits(Math.abs(value), d + 1)} ${unit} a week (${digits(Math.abs(low), d + 1)} to ${digits(Math.abs(high), d + 1)}).` : `No rise or fall beyond doubt (${digits(low, d + 1)} to ${digits(high, d + 1)} ${unit} a week).`;
}

const KINDS: Record<string, string> = { keep: "Kept", drop: "Dropped", keep_testing: "Tested on", bag: "Bag", calibration: "Calibration", injury: "Injury", break: "Break", other: "Mark" };

/** What happened at each mark: the step and the change of slope, with their intervals. */
function AtMarks({ weeks, measure, units }: { weeks: Schemas["WeeksOut"]; measure: Measure; units: System }) {
  const at = new Map(weeks.course?.marks.map((m) => [m.on, m]));
  const text = (told: Schemas["ToldOut"], per: string) => {
    const [v, unit, d] = convert(told.value ?? 0, measure.unit, measure.decimals, units);
    const [low, high] = told.ci95.map((c) => convert(c ?? 0, measure.unit, measure.decimals, units)[0]) as [number, number];
    const sign = (x: number) => `${x > 0 ? "+" : ""}${digits(x, d)}`;
    return (
      <>
        <b className="figure text-base">{sign(v)}</b> {unit}
        {per} <span className="numeric text-soft">({sign(low)} to {sign(high)})</span>
      </>
    );
  };
  return (
    <section aria-label="At each change">
      <h2 className="wide-title text-base">At each change</h2>
      {weeks.marks.length === 0 && <p className="text-soft">Nothing was decided, changed or marked in these weeks.</p>}
      <ul>
        {weeks.marks.map((m) => {
          const told = at.get(m.on);
          return (
            <li key={`${m.on} ${m.kind} ${m.text}`} className="border-t border-line py-1.5">
              <span className="font-semibold">{KINDS[m.kind] ?? m.kind}</span>, {longDay(m.on)}
              {m.until && ` to ${longDay(m.until)}`}
              <p className="text-2xs text-soft">{m.text}</p>
              {told?.step && <p>From then on {text(told.step, "")}</p>}
              {told?.slope_change_per_week && <p>Slope {text(told.slope_change_per_week, " a week")}</p>}
              {told?.why_not && <p className="text-2xs">No step can be told: {told.why_not}.</p>}
            </li>
          );
        })}
      </ul>
      {weeks.course?.mdc !== null && weeks.course?.mdc !== undefined && (
        <p className="border-t border-line pt-1.5 text-2xs text-soft">
          Two evenings differ only if by more than {digits(...(([v, , d]) => [v, d] as const)(convert(weeks.course.mdc, measure.unit, measure.decimals, units)))} {unitOf(measure, units)}.
        </p>
      )}
    </section>
  );
}
