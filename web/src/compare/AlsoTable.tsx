import type { Schemas } from "../api/client";
import { convert, digits, type Measure } from "../format";
import { MeasureName } from "../ui/MeasureName";
import { useUnits } from "../ui/settings";
import { VERDICTS } from "./words";

interface Props {
  also: Schemas["AlsoOut"][];
  registry: Schemas["Registry"];
  choose: (measure: string) => void;
}

/** What else moved, each with its interval and verdict; a click makes it the measure that is looked at. */
export function AlsoTable({ also, registry, choose }: Props) {
  const [units] = useUnits();
  const by = new Map(registry.measures.map((m) => [m.name, m]));
  return (
    <table className="w-full text-left">
      <caption className="wide-title pb-1 text-left text-base">What else moved</caption>
      <thead className="sr-only">
        <tr>
          <th>Measure</th>
          <th>Change</th>
          <th>Interval</th>
          <th>Verdict</th>
        </tr>
      </thead>
      <tbody>
        {also.map((a) => {
          const m = by.get(a.measure);
          if (!m) return null;
          return (
            <tr key={a.measure} className="border-t border-line">
              <th scope="row" className="font-normal">
                <button className="plain prints min-h-8 text-left" onClick={() => choose(a.measure)}>
                  {m.label}
                </button>{" "}
                <MeasureName measure={m} text="?" className="text-soft" />
              </th>
              <td className="numeric px-2 text-right font-bold whitespace-nowrap">{a.effect === null ? "–" : signed(m, a.effect, units)}</td>
              <td className="numeric px-2 whitespace-nowrap text-soft">{a.ci95 && a.ci95[0] !== null && a.ci95[1] !== null ? `${signed(m, a.ci95[0]!, units, false)} to ${signed(m, a.ci95[1]!, units, false)}` : ""}</td>
              <td className={`text-right text-2xs ${a.worse ? "font-semibold text-buoy-ink" : ""}`}>
                {a.refused ? "not compared" : `${VERDICTS[a.verdict ?? ""] ?? ""}${a.worse === null ? "" : a.worse ? ", worse" : ", better"}`}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function signed(m: Measure, value: number, units: "si" | "us", withUnit = true): string {
  const [v, unit, decimals] = convert(value, m.unit, m.decimals, units);
  const text = digits(v, decimals);
  return `${v > 0 && Number(text.replaceAll(",", "")) !== 0 ? "+" : ""}${text}${withUnit ? ` ${unit}` : ""}`;
}
