import { useQuery } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";
import { convert, digits, findMeasure } from "../format";
import { useUnits } from "../ui/settings";

function useMoved() {
  return useQuery({ queryKey: ["drills-moved"], staleTime: 60_000, queryFn: async () => unwrap(await client.GET("/api/drills-moved")) });
}

/** What went with a drill in this gym, or that nobody knows yet. */
export function Moved({ drill, registry }: { drill: string; registry: Schemas["Registry"] }) {
  const [units] = useUnits();
  const own = useMoved().data?.filter((m) => m.drill === drill) ?? [];
  if (own.length === 0) return null;
  const drilled = own[0]!.drilled;
  return (
    <table className="mt-1 text-left">
      <caption className="text-left text-soft">
        {drilled} {drilled === 1 ? "student has" : "students have"} worked on it here. From before it to after it; what went with it is not always what it did.
      </caption>
      <thead className="sr-only">
        <tr>
          <th>Measure</th>
          <th>Change</th>
          <th>What that says</th>
        </tr>
      </thead>
      <tbody>
        {own.map((m) => {
          const measure = findMeasure(registry, m.measure)!;
          const told = (v: number) => {
            const [value, , decimals] = convert(v, measure.unit, measure.decimals, units);
            return `${value > 0 ? "+" : ""}${digits(value, decimals)}`;
          };
          const unit = convert(1, measure.unit, measure.decimals, units)[1];
          const known = m.value !== null && m.low !== null && m.high !== null;
          return (
            <tr key={m.measure} className="[&>td]:pr-6">
              <td>{measure.label}</td>
              <td className="numeric whitespace-nowrap">{known && `${told(m.value!)} ${unit}, likely ${told(m.low!)} to ${told(m.high!)}`}</td>
              <td>{known ? verdict(m) : <span className="text-soft">nobody knows yet: it takes five evenings, two at least on either side</span>}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function verdict(m: Schemas["DrillMovedOut"]): string {
  if (m.low! <= 0 && m.high! >= 0) return "that may be nothing";
  return m.value! > 0 === m.up ? "the way it is wanted" : "the other way than is wanted";
}
