import { useState } from "react";
import { useTrials } from "../api/trials";
import { usePlaybook } from "../playbook/entries";
import { useDrillsOfWeeks } from "../evening/Drills";
import { Form, Labelled } from "../ui/Form";
import { useStrikeName } from "../ui/StrikePicker";
import { DAYS, usePropose, type Plan, type Wish } from "./week";

interface Props {
  plan: Plan;
  studentId: number;
  child: boolean;
  stopped: boolean;
}

const MINUTES = 60;

/** What is wished for, the first weighing most, on which evenings; and what a wish had to bend to. */
export function Wishes({ plan, studentId, child, stopped }: Props) {
  const [wishes, setWishes] = useState<Wish[]>(() => plan.wishes.map(({ bent: _bent, ...wish }) => wish as Wish));
  const [free, setFree] = useState(plan.free);
  const [easy, setEasy] = useState(plan.easy);
  const propose = usePropose(studentId);
  const set = (k: number, part: Partial<Wish>) => setWishes(wishes.map((w, i) => (i === k ? { ...w, ...part } : w)));
  const changed = JSON.stringify([wishes, free, easy]) !== JSON.stringify([plan.wishes.map(({ bent: _bent, ...w }) => w), plan.free, plan.easy]);
  return (
    <section aria-label="Wishes" className="no-print">
      <h2 className="wide-title text-base">Wishes, the first weighs most</h2>
      <Form submit={plan.version > 0 ? "Propose the week anew" : "Propose the week"} busy={propose.isPending || stopped || wishes.length === 0} error={propose.error} save={() => propose.mutate({ monday: plan.monday, wishes, free, easy, version: plan.version })} className="mt-2">
        <ul>
          {wishes.map((w, k) => (
            <li key={k} className="border-t border-line py-2">
              <div className="flex flex-wrap items-center gap-2">
                <span className="min-w-40 flex-1 font-semibold">{w.name}</span>
                <label className="flex items-center gap-1">
                  <input className="field w-16" type="number" min={1} max={7} aria-label={`${w.name}: evenings`} value={w.evenings} onChange={(e) => set(k, { evenings: Number(e.target.value) })} />
                  evenings
                </label>
                {(w.kind === "kicks" || w.kind === "hands") && (
                  <label className="flex items-center gap-1">
                    of
                    <input className="field w-20" type="number" min={10} max={100} step={10} aria-label={`${w.name}: strikes an evening`} value={w.strikes} onChange={(e) => set(k, { strikes: Number(e.target.value) })} />
                  </label>
                )}
                <button type="button" className="plain min-h-11 px-2" aria-label={`${w.name} weighs more`} disabled={k === 0} onClick={() => setWishes([...wishes.slice(0, k - 1), w, wishes[k - 1]!, ...wishes.slice(k + 1)])}>
                  ↑
                </button>
                <button type="button" className="plain min-h-11 px-2" aria-label={`Take the wish ${w.name} off`} onClick={() => setWishes(wishes.filter((_, i) => i !== k))}>
                  ✕
                </button>
              </div>
              {!changed && plan.wishes[k]?.bent && <p className="border-l-4 border-buoy pl-2 text-2xs">{plan.wishes[k].bent}</p>}
            </li>
          ))}
        </ul>
        <Another studentId={studentId} child={child} add={(w) => setWishes([...wishes, w])} />
        <fieldset className="mt-4">
          <legend className="font-semibold">Free evenings</legend>
          <div className="flex flex-wrap gap-2">
            {DAYS.map((name, day) => {
              const own = free.find((f) => f.day === day);
              return (
                <span key={name} className="flex items-center gap-1">
                  <label className="flex min-h-11 items-center gap-2 rounded-sm border border-line px-2">
                    <input type="checkbox" className="size-5" checked={!!own} onChange={(e) => setFree(e.target.checked ? [...free, { day, minutes: MINUTES }].sort((a, b) => a.day - b.day) : free.filter((f) => f.day !== day))} />
                    {name.slice(0, 3)}
                  </label>
                  {own && <input className="field w-18" type="number" min={5} max={300} step={5} aria-label={`Minutes on ${name}`} value={own.minutes} onChange={(e) => setFree(free.map((f) => (f.day === day ? { day, minutes: Number(e.target.value) } : f)))} />}
                </span>
              );
            })}
          </div>
        </fieldset>
        <label className="mt-2 flex min-h-11 items-center gap-2">
          <input type="checkbox" className="size-5" checked={easy} onChange={(e) => setEasy(e.target.checked)} />
          An easy week: six tenths of the usual
        </label>
        {plan.version > 0 && changed && <p className="text-soft">The board is of what was wished for before; proposing anew takes its place.</p>}
      </Form>
    </section>
  );
}

const FAMILIES = { kicks: ["round", "front", "side"], hands: ["straight", "hook", "uppercut"] } as const;

/** One wish more: a running trial, a drill of the playbook, or a count. */
function Another({ studentId, child, add }: { studentId: number; child: boolean; add: (wish: Wish) => void }) {
  const trials = useTrials().data?.filter((t) => !t.ended_on && t.students.includes(studentId)) ?? [];
  const drills = (usePlaybook().data ?? []).flatMap((e) => (e.content.kind === "drill" && !e.off ? [{ key: e.key, name: e.content.name }] : []));
  const nameOf = useStrikeName();
  const seen = useDrillsOfWeeks(studentId).data?.drills ?? [];
  const kinds: { value: string; wish: Wish; group: string; told?: string }[] = [
    ...seen.map((d) => ({ value: `s${d.key}`, group: "Seen in the last weeks", told: `${d.name}: ${d.seen.charAt(0).toLowerCase()}${d.seen.slice(1)}`, wish: { kind: "drill" as const, name: d.name, evenings: 2, strikes: 0, minutes: 5, key: d.key } })),
    ...trials.map((t) => {
      const strikes = t.levels.length * t.blocks_each * t.strikes;
      const minutes = Math.round((t.levels.length * t.blocks_each * (t.strikes * 3 + t.rest_s)) / 60);
      return { value: `t${t.id}`, group: "Settle a trial", wish: { kind: "trial" as const, name: `Trial of ${t.factor}`, evenings: 1, strikes, minutes, key: String(t.id) } };
    }),
    ...(["kicks", "hands"] as const).flatMap((kind) => FAMILIES[kind].map((family) => ({ value: `${kind} ${family}`, group: "Count, in sets of ten", wish: { kind, name: plural(nameOf(family)), evenings: 2, strikes: child ? 20 : 50, minutes: 0, key: family } }))),
    ...(child ? [] : [{ value: "bursts", group: "Fast and long", wish: { kind: "bursts" as const, name: "Bursts", evenings: 1, strikes: 40, minutes: 10, key: "" } }]),
    { value: "rounds", group: "Fast and long", wish: { kind: "rounds" as const, name: "Rounds", evenings: 2, strikes: 60, minutes: child ? 6 : 12, key: "" } },
    ...drills.map((d) => ({ value: `d${d.key}`, group: "Drill", wish: { kind: "drill" as const, name: d.name, evenings: 2, strikes: 0, minutes: 5, key: d.key } })),
  ];
  const groups = [...new Set(kinds.map((k) => k.group))];
  return (
    <Labelled name="One more" className="mt-3 block">
      <select className="field min-h-11 w-full" value="" onChange={(e) => add(kinds.find((k) => k.value === e.target.value)!.wish)}>
        <option value="">choose what is to be done</option>
        {groups.map((g) => (
          <optgroup key={g} label={g}>
            {kinds
              .filter((k) => k.group === g)
              .map((k) => (
                <option key={k.value} value={k.value}>
                  {k.told ?? k.wish.name}
                </option>
              ))}
          </optgroup>
        ))}
      </select>
    </Labelled>
  );
}

function plural(name: string): string {
  return `${name.charAt(0).toUpperCase()}${name.slice(1)}s`;
}
