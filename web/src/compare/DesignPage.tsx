import { useDeferredValue, useMemo, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useBags, useRegistry, useSchools, useStudents, useZone } from "../api/queries";
import { today } from "../format";
import { usePlan, useSaveTrial, useTrials } from "../api/trials";
import { BagOptions } from "../ui/BagOptions";
import { Failed, Loading, Problem } from "../ui/state";
import { PlanTold } from "./PlanTold";
import { Picker, type Pick } from "../ui/Picker";
import { useAdding } from "../ui/adding";
import { StrikePicker } from "../ui/StrikePicker";

const FIRST: Schemas["TrialIn"] = {
  factor: "weight transfer",
  levels: ["stay centred", "full shift onto the lead heel"],
  code: "rear-straight",
  height: "head",
  measure: "impulse_n_s",
  watch: ["peak_force_n", "effective_mass_kg", "contact_speed_m_s", "pullback_mm", "tell_ms", "return_ms", "settle_ms"],
  worth_pct: 8,
  blocks_each: 2,
  strikes: 8,
  rest_s: 60,
  evenings: 4,
  gear: "",
  bag_id: null,
  students: [],
  since: null,
  version: 0,
};
/** Where a plan for a child begins: technique decides. */
const FOR_A_CHILD: Schemas["TrialIn"] = { ...FIRST, measure: "turn_done_pct", watch: ["pullback_mm", "drop_mm", "path_ratio", "return_ms", "settle_ms"] };
const SCHOOL = "school";

/** Plan a trial, or change one: what, on which strike, how often; beside it what the plan should show of each student. */
export function DesignPage() {
  const { trialId } = useParams();
  const id = trialId === undefined ? undefined : Number(trialId);
  const [params] = useSearchParams();
  const trials = useTrials();
  const registry = useRegistry();
  const students = useStudents();
  const failed = trials.error ?? registry.error ?? students.error;
  if (failed) return <Failed error={failed} />;
  if (!trials.data || !registry.data || !students.data) return <Loading what="the trial" />;
  const old = trials.data.find((t) => t.id === id);
  if (id !== undefined && !old) return <Failed error={new Error("There is no such trial in this gym.")} />;
  const student = Number(params.get("student")) || students.data.find((s) => !s.left_on)?.id;
  const who = students.data.find((s) => s.id === student);
  const proposed = params.get("levels")?.split("|") ?? [];
  const begun = { ...(who?.counts_as_child ? FOR_A_CHILD : FIRST), students: student ? [student] : [] };
  const asked = proposed.length > 1 ? { factor: params.get("factor") ?? FIRST.factor, levels: proposed, code: params.get("code") ?? FIRST.code } : {};
  const first = old ? { ...old, since: old.started_on } : { ...begun, ...asked };
  return <Designing key={id} id={id} first={first} registry={registry.data} students={students.data} back={student} />;
}

/** Words that are their own names. */
function plainly(words: readonly string[]): Pick[] {
  return words.map((word) => ({ value: word, name: word }));
}

interface Props {
  id: number | undefined;
  first: Schemas["TrialIn"];
  registry: Schemas["Registry"];
  students: Schemas["StudentOut"][];
  back: number | undefined;
}

function Designing({ id, first, registry, students, back }: Props) {
  const [text, setText] = useState<Schemas["TrialIn"]>(() => ({ ...FIRST, ...pick(first) }));
  const schools = useSchools();
  const bags = useBags();
  const save = useSaveTrial(id);
  const zone = useZone();
  const adding = useAdding();
  const navigate = useNavigate();
  const set = (part: Partial<Schemas["TrialIn"]>) => setText((now) => ({ ...now, ...part }));
  const ready = text.levels.every((l) => l.trim()) && new Set(text.levels).size === text.levels.length && text.students.length > 0;
  const plan = usePlan(useDeferredValue(useMemo(() => (ready ? text : null), [ready, text])));
  const levelsOf = (factor: string) => (factor === SCHOOL ? (schools.data ?? []).map((s) => s.name) : (registry.factors[factor] ?? []));
  const known = levelsOf(text.factor);
  // another change begins with levels of its own: what it would show is there at once
  const change = (factor: string) => factor !== text.factor && set({ factor, levels: text.levels.map((_, k) => levelsOf(factor)[k] ?? "") });
  const setLevel = (i: number, name: string) => set({ levels: text.levels.map((l, k) => (k === i ? name : l)) });
  const numeric = registry.measures.filter((m) => m.numeric);
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <h1 className="wide-title text-2xl">{id === undefined ? "Plan a trial" : "Change the trial"}</h1>
      <p className="text-soft">One thing is changed, the rest is held: same bag, same gloves, same height. Blocks take turns, so warming up and tiring fall on both.</p>
      <div className="mt-4 grid gap-10 lg:grid-cols-[minmax(0,30rem)_minmax(0,1fr)]">
        <form
          className="grid grid-cols-2 content-start gap-x-4 gap-y-3"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate(text, { onSuccess: (made) => void navigate(`/students/${back ?? made.students[0]}/compare?trial=${made.id}`) });
          }}
        >
          <label className="col-span-2">
            <Name>What is changed</Name>
            <Picker label="What is changed" required value={text.factor} picks={plainly([...Object.keys(registry.factors), SCHOOL])} onChange={change} add={change} adding="Something new: …" />
          </label>
          {text.levels.map((level, i) => (
            <label key={i} className="col-span-2 flex items-center gap-2">
              <span className="w-24 text-soft">{i === 0 ? "As now" : text.levels.length > 2 ? `Against it, ${i}` : "Against it"}</span>
              <div className="min-w-0 flex-1">
                <Picker label={i === 0 ? "As now" : `Against it ${i}`} required value={level} picks={plainly(known)} onChange={(l) => setLevel(i, l)} add={(l) => setLevel(i, l)} adding="Something new: …" />
              </div>
              {text.levels.length > 2 && (
                <button type="button" className="plain px-2 py-2" aria-label={`Take off ${level || "this level"}`} onClick={() => set({ levels: text.levels.filter((_, k) => k !== i) })}>
                  ✕
                </button>
              )}
            </label>
          ))}
          {text.levels.length < 4 && (
            <button type="button" className="plain col-span-2 justify-self-start py-1" onClick={() => set({ levels: [...text.levels, ""] })}>
              Another level
            </button>
          )}
          <label>
            <Name>Strike</Name>
            <StrikePicker value={text.code} onChange={(code) => set({ code })} />
          </label>
          <label>
            <Name>Height</Name>
            <select className="field w-full" value={text.height} onChange={(e) => set({ height: e.target.value })}>
              <option value="">any</option>
              {["head", "body", "low"].map((h) => (
                <option key={h}>{h}</option>
              ))}
            </select>
          </label>
          <label>
            <Name>The measure that decides</Name>
            <select className="field w-full" value={text.measure} onChange={(e) => set({ measure: e.target.value })}>
              {[...numeric, ...registry.per_body_mass].map((m) => (
                <option key={m.name} value={m.name}>
                  {m.label}
                </option>
              ))}
            </select>
          </label>
          <label>
            <Name>Worth having from, %</Name>
            <input className="field w-full" type="number" min={0.5} max={99} step={0.5} value={text.worth_pct ?? ""} onChange={(e) => set({ worth_pct: e.target.value ? Number(e.target.value) : null })} />
          </label>
          <fieldset className="col-span-2">
            <legend className="mb-1 font-semibold">What it could cost: watch</legend>
            <div className="flex flex-wrap gap-2">
              {numeric
                .filter((m) => FIRST.watch!.includes(m.name) || text.watch!.includes(m.name))
                .map((m) => (
                  <label key={m.name} className="flex min-h-9 items-center gap-2 rounded-sm border border-line px-2">
                    <input type="checkbox" className="size-4" checked={text.watch!.includes(m.name)} onChange={(e) => set({ watch: e.target.checked ? [...text.watch!, m.name] : text.watch!.filter((w) => w !== m.name) })} />
                    {m.label}
                  </label>
                ))}
              <select className="field" aria-label="Watch another" value="" onChange={(e) => e.target.value && set({ watch: [...text.watch!, e.target.value] })}>
                <option value="">another …</option>
                {numeric
                  .filter((m) => !text.watch!.includes(m.name) && !FIRST.watch!.includes(m.name))
                  .map((m) => (
                    <option key={m.name} value={m.name}>
                      {m.label}
                    </option>
                  ))}
              </select>
            </div>
          </fieldset>
          <div className="col-span-2 grid grid-cols-4 gap-3">
            <Count label="Blocks each" value={text.blocks_each!} low={1} high={6} onChange={(v) => set({ blocks_each: v })} />
            <Count label="Strikes a block" value={text.strikes!} low={4} high={20} onChange={(v) => set({ strikes: v })} />
            <Count label="Rest, s" value={text.rest_s!} low={0} high={600} step={10} onChange={(v) => set({ rest_s: v })} />
            <Count label="Evenings" value={text.evenings!} low={1} high={40} onChange={(v) => set({ evenings: v })} />
          </div>
          <label>
            <Name>Bag, held throughout</Name>
            <select className="field w-full" value={text.bag_id ?? ""} onChange={(e) => set({ bag_id: e.target.value ? Number(e.target.value) : null })}>
              <option value="">whichever hangs</option>
              <BagOptions bags={bags.data} />
            </select>
          </label>
          <label>
            <Name>Gear, held throughout</Name>
            <input className="field w-full" placeholder="gloves 12 oz" maxLength={80} value={text.gear} onChange={(e) => set({ gear: e.target.value })} />
          </label>
          <label className="col-span-2">
            <Name>Counts what is thrown from</Name>
            <input className="field" type="date" value={text.since ?? today(zone)} max={today(zone)} onChange={(e) => set({ since: e.target.value || null })} />
          </label>
          <fieldset className="col-span-2">
            <legend className="mb-1 font-semibold">Who</legend>
            <div className="grid grid-cols-2 gap-x-4">
              {students.filter((s) => !s.left_on || text.students.includes(s.id)).map((s) => (
                <label key={s.id} className="flex min-h-9 items-center gap-2">
                  <input type="checkbox" className="size-4" checked={text.students.includes(s.id)} onChange={(e) => set({ students: e.target.checked ? [...text.students, s.id] : text.students.filter((k) => k !== s.id) })} />
                  {s.name}
                </label>
              ))}
            </div>
          </fieldset>
          <div className="col-span-2 flex items-center gap-3">
            <button className="action-main min-h-11" disabled={save.isPending || adding || !ready}>
              {id === undefined ? "Start the trial" : "Save the change"}
            </button>
            {!ready && <span className="text-soft">{text.students.length ? "Name two different levels." : "Choose who throws it."}</span>}
          </div>
          <div className="col-span-2">
            <Problem error={save.error} />
          </div>
        </form>
        <PlanTold plan={ready ? plan.data : undefined} text={text} error={plan.error} pending={ready && plan.isFetching} take={set} />
      </div>
    </div>
  );
}

/** The text of a trial without what the server adds to it. */
function pick(trial: Schemas["TrialIn"]): Partial<Schemas["TrialIn"]> {
  return Object.fromEntries(Object.entries(trial).filter(([key]) => key in FIRST));
}

function Name({ children }: { children: string }) {
  return <span className="mb-1 block font-semibold">{children}</span>;
}

interface CountProps {
  label: string;
  value: number;
  low: number;
  high: number;
  step?: number;
  onChange: (value: number) => void;
}

function Count({ label, value, low, high, step = 1, onChange }: CountProps) {
  return (
    <label>
      <Name>{label}</Name>
      <input className="field w-full" type="number" required min={low} max={high} step={step} value={value} onChange={(e) => onChange(Number(e.target.value))} />
    </label>
  );
}
