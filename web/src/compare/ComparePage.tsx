import { useDeferredValue, useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRegistry, useStudents } from "../api/queries";
import { useComparison, useTrials, type Asked } from "../api/trials";
import { DrillsOfWeeks } from "../evening/Drills";
import { findMeasure, said, unitOf, type Measure } from "../format";
import { useKeys } from "../ui/keys";
import { Shortcuts, type Keys } from "../ui/Shortcuts";
import { Late } from "../ui/Late";
import { Empty, Failed, Loading, Problem } from "../ui/state";
import { useUnits } from "../ui/settings";
import { AlsoTable } from "./AlsoTable";
import { Choosing } from "./Choosing";
import { DecisionPanel } from "./DecisionPanel";
import { DotsChart } from "./DotsChart";
import { EachStudent } from "./EachStudent";
import { IntervalPlot } from "./IntervalPlot";
import { StrikeName } from "../ui/StrikePicker";
import { RemarksByLevel } from "./RemarksByLevel";
import { useView } from "./view";

/** Did the change help? The sentence first, then every strike, the interval, what else moved, what weakens it, the decision. */
export function ComparePage() {
  const studentId = Number(useParams().studentId);
  const trials = useTrials();
  const registry = useRegistry();
  const [view, change] = useView();
  const failed = trials.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void trials.refetch()} />;
  if (!trials.data || !registry.data) return <Loading what="the trials" />;
  const own = trials.data.filter((t) => t.students.includes(studentId));
  const trial = own.find((t) => t.id === view.trial) ?? own[0];
  if (!trial)
    return (
      <Empty title="No trial yet">
        Change one thing, throw it in turns with the old way, and see whether it helps.{" "}
        <Link className="plain" to={`/trials/new?student=${studentId}`}>
          Plan a trial
        </Link>
      </Empty>
    );
  return <Comparing key={trial.id} trial={trial} trials={own} studentId={studentId} registry={registry.data} view={view} change={change} />;
}

const KEYS: Keys = [
  ["m", "the next measure of this trial; with Shift the one before"],
  ["e", "everyone in it, or this student alone"],
  ["s", "the sheet of tonight's blocks"],
  ["p", "print the claim"],
  ["?", "this list"],
];

interface Props {
  trial: Schemas["TrialOut"];
  trials: Schemas["TrialOut"][];
  studentId: number;
  registry: Schemas["Registry"];
  view: ReturnType<typeof useView>[0];
  change: ReturnType<typeof useView>[1];
}

function Comparing({ trial, trials, studentId, registry, view, change }: Props) {
  const asked: Asked = {
    student: view.everybody ? undefined : studentId,
    measure: view.measure,
    levels: view.levels,
    worth: useDeferredValue(view.worth),
    only: view.only,
  };
  const comparison = useComparison(trial.id, asked);
  const c = comparison.data;
  const measure = findMeasure(registry, c?.measure ?? trial.measure);
  const navigate = useNavigate();
  const [listed, setListed] = useState(false);
  const step = (by: number) => {
    const names = [trial.measure, ...(trial.watch ?? [])];
    const at = names.indexOf(c?.measure ?? trial.measure);
    change({ measure: names[(at + by + names.length) % names.length] });
  };
  useKeys({
    m: () => step(1),
    M: () => step(-1),
    e: () => trial.students.length > 1 && change({ everybody: view.everybody ? undefined : "1" }),
    s: () => void navigate(`/trials/${trial.id}/sheet?student=${studentId}`),
    p: () => window.print(),
    "?": () => setListed(true),
  });
  return (
    <div className="px-4 py-4 sm:px-6">
      <Choosing trial={trial} trials={trials} studentId={studentId} registry={registry} view={view} change={change} measure={measure} />
      {comparison.error && (
        <div className="my-4">
          <Problem error={comparison.error} />
        </div>
      )}
      {!c && !comparison.error && <Loading what="the comparison" />}
      <Shortcuts keys={KEYS} open={listed} close={() => setListed(false)} />
      {c && measure && <Told trial={trial} comparison={c} measure={measure} studentId={studentId} registry={registry} change={change} everybody={view.everybody} remarks={<RemarksByLevel trialId={trial.id} asked={asked} levels={c.levels} />} />}
    </div>
  );
}

interface ToldProps {
  trial: Schemas["TrialOut"];
  comparison: Schemas["CompareOut"];
  measure: Measure;
  studentId: number;
  registry: Schemas["Registry"];
  change: ReturnType<typeof useView>[1];
  everybody: boolean;
  remarks: ReactNode;
}

function Told({ trial, comparison: c, measure, studentId, registry, change, everybody, remarks }: ToldProps) {
  const [units] = useUnits();
  const navigate = useNavigate();
  const students = useStudents();
  const names = Object.fromEntries((students.data ?? []).map((s) => [s.label, s.name]));
  const settled = c.claim.verdict === "clear" || c.claim.verdict === "likely";
  return (
    <>
      <p className="hidden text-base print:block">
        {everybody ? `${trial.students.length} students` : students.data?.find((s) => s.id === studentId)?.name}: {trial.factor}, <StrikeName code={trial.code} />
        {trial.height && ` to the ${trial.height}`}
      </p>
      <h1 className="wide-title mt-3 max-w-5xl text-2xl leading-tight sm:text-3xl" aria-live="polite">
        {c.sentence.before} <span className={settled ? "text-buoy-ink" : ""}>{said(c.sentence.figures, units)}</span> {c.sentence.after}
      </h1>
      <p className="mt-1 min-h-5 text-base">{said([c.trade, c.needed].filter(Boolean).join(" "), units)}</p>
      <Late late={c.late} />
      {c.claim.refused && <Narrowing comparison={c} change={change} />}
      <div className="mt-3 grid gap-8 lg:grid-cols-[minmax(0,1fr)_24rem]">
        <div className="min-w-0">
          <p className="flex flex-wrap items-center gap-x-5 text-base">
            <LevelKey level={0} name={c.levels[0]!} n={c.claim.n[c.levels[0]!]} />
            <LevelKey level={1} name={c.levels[1]!} n={c.claim.n[c.levels[1]!]} />
            <span className="text-2xs text-soft">
              {measure.label.toLowerCase()}, {unitOf(measure, units)}; every strike, bars are block means
            </span>
          </p>
          {c.strikes.id.length > 0 && (
            <DotsChart
              strikes={c.strikes}
              blocks={c.blocks}
              levels={c.levels}
              measure={measure}
              names={names}
              onOpen={(recording, strike) => void navigate(`/students/${studentId}/read?recording=${recording}&id=${strike}`)}
            />
          )}
          <div className="mt-2 grid gap-8 border-t sm:grid-cols-2 border-line pt-2">
            <Weakens comparison={c} />
            {!everybody && <DecisionPanel trial={trial} studentId={studentId} level={c.levels[1]!} said={`${c.sentence.before} ${c.sentence.figures} ${c.sentence.after}`} />}
          </div>
        </div>
        <div className="min-w-0 space-y-3">
          {!c.claim.refused && (
            <section aria-label="Difference, with its doubt">
              <h2 className="wide-title text-base">Difference, with its doubt</h2>
              <IntervalPlot comparison={c} measure={measure} />
            </section>
          )}
          {everybody ? <EachStudent comparison={c} names={names} /> : c.claim.refused ? null : <AlsoTable also={c.also} registry={registry} choose={(m) => change({ measure: m })} />}
          {remarks}
        </div>
      </div>
      {!everybody && <DrillsOfWeeks studentId={studentId} registry={registry} />}
    </>
  );
}

function LevelKey({ level, name, n }: { level: 0 | 1; name: string; n: number | undefined }) {
  return (
    <span className="flex items-center gap-2">
      <svg width={16} height={16} aria-hidden="true">
        {level === 0 ? <circle cx={8} cy={8} r={5.5} fill="var(--oar)" /> : <path d="M8 1.5L14.5 8L8 14.5L1.5 8z" fill="none" stroke="var(--buoy)" strokeWidth={2} />}
      </svg>
      {name} <span className="numeric text-soft">{n ?? 0}</span>
    </span>
  );
}

function Weakens({ comparison }: { comparison: Schemas["CompareOut"] }) {
  const [units] = useUnits();
  const { claim, planned } = comparison;
  return (
    <section aria-label="What weakens this">
      <h2 className="wide-title text-base">What weakens this</h2>
      {claim.notes.length === 0 && !planned ? (
        <p className="text-soft">{comparison.outcome === "begun" ? "There is nothing to compare yet." : claim.refused ? "It is no fair comparison to begin with." : "Nothing that was looked for: evenings, order, drift, fading, uneven or thrown-out strikes."}</p>
      ) : (
        <ul className="space-y-1">
          {planned && <li className="border-l-4 border-buoy pl-2">{planned}</li>}
          {claim.notes.map((n) => (
            <li key={n.kind} className={`border-l-4 pl-2 ${n.warn ? "border-buoy" : "border-line text-soft"}`}>
              {said(n.text, units)}
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Where something else changed too: the parts in which it did not. */
function Narrowing({ comparison, change }: { comparison: Schemas["CompareOut"]; change: ReturnType<typeof useView>[1] }) {
  if (comparison.narrow.length === 0) return null;
  return (
    <p className="no-print mt-2 flex flex-wrap items-center gap-2">
      <span>Compare within one:</span>
      {comparison.narrow.map((n) => (
        <button key={n.only} className="action min-h-11" onClick={() => change({ only: n.only })}>
          {n.name} ({n.evenings} {n.evenings === 1 ? "evening" : "evenings"})
        </button>
      ))}
    </p>
  );
}
