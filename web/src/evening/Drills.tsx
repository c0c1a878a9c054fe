import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { convert, digits, findMeasure, type System } from "../format";
import { useUnits } from "../ui/settings";
import { Problem } from "../ui/state";
import { useStrikeName } from "../ui/StrikePicker";

type Page = Schemas["EveningPage"];

/** From what was seen to what to drill: three at most, the strongest first, each with why and with which strikes. */
export function Drills({ evening, registry }: { evening: Page; registry: Schemas["Registry"] }) {
  const [units] = useUnits();
  const told = useQuery({
    queryKey: ["evening", evening.id, "drills", evening.version],
    queryFn: async () => unwrap(await client.GET("/api/evenings/{evening_id}/drills", { params: { path: { evening_id: evening.id } } })),
  });
  const nameOf = useStrikeName();
  if (evening.thrown.length === 0) return null;
  return (
    <section aria-label="What to drill" className="mt-8">
      <h2 className="wide-title text-lg">What to drill</h2>
      {told.error && <Problem error={told.error} />}
      {told.isPending && <p className="text-soft">Looking through the strikes…</p>}
      {told.data?.length === 0 && <p className="mt-1 text-soft">Nothing stands out in these strikes beyond chance and doubt, and no remark comes back often enough.</p>}
      <ol className="mt-1 border-t border-line">
        {told.data?.map((d) => (
          <li key={d.name} className="border-b border-line py-3">
            <p>
              <span className="text-lg font-semibold">{d.name}</span> <span className="text-soft">{d.dose}</span>
            </p>
            <p className="mt-0.5">
              <span className="font-semibold">{sentence(nameOf(d.code))}.</span> {d.seen} {d.figure && figureText(d.figure, registry, units)} {d.words}
            </p>
            <p className="mt-1 flex flex-wrap items-center gap-x-3 text-soft">
              <span>Seen in</span>
              {d.strikes.slice(0, SHOWN).map((s) => (
                <Link key={s.strike_id} className="plain numeric inline-block min-w-8 py-2" to={`/students/${evening.student_id}/read?recording=${s.recording_id}&id=${s.strike_id}`} aria-label={`Strike ${s.number}`}>
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
                  Go on when ten in a row are clean{d.moves && ` and ${d.moves.toLowerCase()} holds`}. Speed comes last. {d.care}
                </li>
              </DisclosurePanel>
            </Disclosure>
          </li>
        ))}
      </ol>
    </section>
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
