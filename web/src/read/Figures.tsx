import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useAbsent } from "../api/queries";
import { show, type Measure } from "../format";
import { Meaning } from "../ui/MeasureName";
import { useChosen } from "./chosen";
import { useReading } from "./reading";

/** The figures of the strike that were chosen, or all, from the floor to the bag; each opens to what it answers, what it
 * means, what it was computed from, and its doubt. */
export function Figures() {
  const { strikes, shown: chosen, registry } = useReading();
  const { names } = useChosen();
  const [all, setAll] = useState(false);
  const onTheBag = strikes.kind[chosen] === "bag";
  const there = registry.measures.filter((m) => m.numeric && (onTheBag ? !m.needs.includes("bag evenings") : !m.needs.includes("bag") || m.name === "gap_ms"));
  const shown = all ? there : names;
  return (
    <section aria-label="Figures of the strike" className="max-h-144 min-h-0 overflow-auto border-l border-line pl-5 lg:max-h-none" tabIndex={0}>
      <h2 className="sr-only">Figures</h2>
      {registry.groups.map((group) => {
        const own = shown.filter((m) => m.group === group);
        return own.length === 0 ? null : (
          <section key={group} aria-label={group}>
            <h3 className="pt-2 text-2xs text-soft">{group}</h3>
            {own.map((m) => (
              <OneFigure key={m.name} measure={m} />
            ))}
          </section>
        );
      })}
      <button className="plain no-print mt-2 min-h-11" onClick={() => setAll(!all)}>
        {all ? "The chosen ones alone" : `All ${there.length} figures`}
      </button>
      <Flags flags={strikes.flags[chosen]!} registry={registry} />
    </section>
  );
}

function OneFigure({ measure: m }: { measure: Measure }) {
  const { strikes, shown: chosen, units } = useReading();
  const { has, toggle } = useChosen();
  const shown = show(m, strikes.values[m.name]?.[chosen], strikes.sds[m.name]?.[chosen], units);
  return (
    <Disclosure as="div" className="border-b border-line">
      <DisclosureButton className="flex min-h-11 w-full items-center justify-between gap-2 text-left hover:bg-shade">
        <span className="text-soft">{m.label}</span>
        {shown ? (
          <span className="text-right whitespace-nowrap">
            <span className="figure text-base">{shown.value}</span> {shown.unit} {shown.doubt && <span className="numeric text-2xs text-soft">{shown.doubt}</span>}
          </span>
        ) : (
          <span className="text-soft">not measured</span>
        )}
      </DisclosureButton>
      <DisclosurePanel className="space-y-1 pb-3 text-2xs">
        <Meaning measure={m} />
        {shown ? (
          <p className="text-soft">{shown.doubt ? `${shown.doubt} ${shown.unit}: the truth lies within it in 19 of 20 strikes.` : ""}</p>
        ) : (
          <WhyNot strike={strikes.id[chosen]!} measure={m.name} />
        )}
        <label className="no-print flex min-h-9 items-center gap-2">
          <input type="checkbox" className="size-4" checked={has(m.name)} onChange={() => toggle(m.name)} />
          Among the figures that I am shown
        </label>
      </DisclosurePanel>
    </Disclosure>
  );
}

/** Asked for only where a figure that is not there is opened. */
function WhyNot({ strike, measure }: { strike: number; measure: string }) {
  const absent = useAbsent(strike);
  return <p>{absent.isPending ? "Fetching …" : `Not measured: ${absent.data?.[measure] ?? "this strike did not show it clearly enough"}.`}</p>;
}

function Flags({ flags, registry }: { flags: string[]; registry: Schemas["Registry"] }) {
  return flags.length ? (
    <ul className="mt-3 space-y-2">
      {flags.map((flag) => (
        <li key={flag} className="border-l-4 border-line pl-2 text-2xs">
          {registry.flags[flag.split(":")[0]!] ?? flag}
        </li>
      ))}
    </ul>
  ) : null;
}
