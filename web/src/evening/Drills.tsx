import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useMutation, useQuery, useQueryClient, type UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { convert, digits, findMeasure, type System } from "../format";
import { useUnits } from "../ui/settings";
import { Problem } from "../ui/state";
import { useStrikeName } from "../ui/StrikePicker";
import { Heard } from "./Heard";

type Page = Schemas["EveningPage"];
type Told = Schemas["SeenToDrillOut"];

/** From what was seen in an evening to what to drill, and what was worked on in it. */
export function Drills({ evening, registry }: { evening: Page; registry: Schemas["Registry"] }) {
  const told = useQuery({
    queryKey: ["evening", evening.id, "drills", evening.version],
    queryFn: async () => unwrap(await client.GET("/api/evenings/{evening_id}/drills", { params: { path: { evening_id: evening.id } } })),
  });
  if (evening.thrown.length === 0) return null;
  return (
    <section aria-label="What to drill" className="mt-8">
      <h2 className="wide-title text-lg">What to drill</h2>
      <DrillList told={told} registry={registry} studentId={evening.student_id} worked={(key) => <WorkedOn evening={evening} drill={key} />} />
      {told.data && <Heard heard={told.data.heard} registry={registry} />}
    </section>
  );
}

/** What a student's last weeks ask to be drilled. */
export function useDrillsOfWeeks(studentId: number) {
  return useQuery({
    queryKey: ["students", studentId, "drills"],
    queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/drills", { params: { path: { student_id: studentId } } })),
  });
}

/** The same over a student's last weeks. */
export function DrillsOfWeeks({ studentId, registry }: { studentId: number; registry: Schemas["Registry"] }) {
  const told = useDrillsOfWeeks(studentId);
  return (
    <section aria-label="What to drill" className="mt-6">
      <h2 className="wide-title text-lg">What to drill, by the last four weeks</h2>
      <DrillList told={told} registry={registry} studentId={studentId} />
      {told.data && <Heard heard={told.data.heard} registry={registry} />}
    </section>
  );
}

interface ListProps {
  told: UseQueryResult<Told>;
  registry: Schemas["Registry"];
  studentId: number;
  worked?: (key: string) => ReactNode;
}

/** Three at most, the strongest first, each with why and with which strikes. */
function DrillList({ told, registry, studentId, worked }: ListProps) {
  const [units] = useUnits();
  const nameOf = useStrikeName();
  if (told.error) return <Problem error={told.error} />;
  if (!told.data) return <p className="text-soft">Looking through the strikes…</p>;
  if (told.data.drills.length === 0) return <p className="mt-1 text-soft">Nothing stands out in these strikes beyond chance and doubt, and no remark comes back often enough.</p>;
  return (
    <ol className="mt-1 border-t border-line">
      {told.data.drills.map((d) => (
        <li key={d.key} className="border-b border-line py-3">
          <p className="flex flex-wrap items-baseline gap-x-3">
            <span className="text-lg font-semibold">{d.name}</span> <span className="text-soft">{d.dose}</span>
            {worked?.(d.key)}
          </p>
          <p className="mt-0.5">
            <span className="font-semibold">{sentence(nameOf(d.code))}.</span> {d.seen} {d.figure && figureText(d.figure, registry, units)} {d.words}
          </p>
          <p className="mt-1 flex flex-wrap items-center gap-x-3 text-soft">
            <span>Seen in</span>
            {d.strikes.slice(0, SHOWN).map((s) => (
              <Link key={s.strike_id} className="plain numeric inline-block min-w-8 py-2" to={`/students/${studentId}/read?recording=${s.recording_id}&id=${s.strike_id}`} aria-label={`Strike ${s.number}`}>
                {s.number}
              </Link>
            ))}
            {d.strikes.length > SHOWN && <span className="numeric">and {d.strikes.length - SHOWN} more</span>}
          </p>
          <Disclosure>
            <DisclosureButton className="plain no-print min-h-11">The steps, from the easiest</DisclosureButton>
            <DisclosurePanel as="ol" className="list-decimal pl-6">
              {d.steps.map((step) => (
                <li key={step}>{step}</li>
              ))}
              <li className="list-none text-soft">
                {d.go_on && `Go on when: ${d.go_on.charAt(0).toLowerCase()}${d.go_on.slice(1)}`} {d.moves && `${d.moves} shows it.`} {d.kit && `It takes ${d.kit}.`} Speed comes last. {d.care}
              </li>
            </DisclosurePanel>
          </Disclosure>
        </li>
      ))}
    </ol>
  );
}

/** A drill that was worked on is kept with its evening: later it can be told what went with it. */
function WorkedOn({ evening, drill }: { evening: Page; drill: string }) {
  const queries = useQueryClient();
  const on = evening.drilled.some((d) => d.drill === drill);
  const set = useMutation({
    mutationFn: async () => unwrap(await client.PUT("/api/evenings/{evening_id}/drilled", { params: { path: { evening_id: evening.id } }, body: { drill, on: !on } })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["evening", evening.id], exact: true });
      await queries.invalidateQueries({ queryKey: ["drills-moved"] });
    },
  });
  return (
    <span className="ml-auto">
      <button role="checkbox" aria-checked={on} className={`${on ? "action-main" : "action"} no-print`} disabled={set.isPending} onClick={() => set.mutate()}>
        {on ? "✓ Worked on it" : "We worked on it"}
      </button>
      {on && <span className="hidden print:inline">worked on</span>}
      <Problem error={set.error} />
    </span>
  );
}

const SHOWN = 10;

/** The figure that speaks for a drill, in the units that are set. */
function figureText(f: Schemas["FigureOut"], registry: Schemas["Registry"], units: System): string {
  const measure = findMeasure(registry, f.measure)!;
  const told = (value: number) => {
    const [v, unit, decimals] = convert(value, measure.unit, measure.decimals, units);
    return `${digits(v, decimals)} ${unit}`.trim();
  };
  const wanted = `${f.low ? "at least" : "at most"} ${told(f.edge)}`;
  const whose = f.school ? `The school “${f.school}” wants ${wanted}.` : `As a rule ${wanted} is wanted.`;
  return `${measure.label} ${told(f.mean)}, the mean of ${f.strikes} strikes. ${whose}`;
}

function sentence(words: string): string {
  return words[0]!.toUpperCase() + words.slice(1);
}
