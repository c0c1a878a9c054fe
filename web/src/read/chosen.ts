import { findMeasure, type Measure } from "../format";
import { useFigures } from "../ui/settings";
import { useReading } from "./reading";

/** Off the bag these stand in for what only a bag tells. */
const STANDS_IN: Record<string, string> = { impulse_n_s: "impulse_estimated_n_s", effective_mass_kg: "effective_mass_estimated_kg", contact_speed_m_s: "peak_speed_m_s" };

interface Chosen {
  names: Measure[]; //: in the order of the registry, from the floor to the bag
  has: (name: string) => boolean;
  toggle: (name: string) => void;
}

/** The figures that are shown of a strike: eight where nobody chose, the coach's own choice else. */
export function useChosen(): Chosen {
  const { registry, strikes, shown, child } = useReading();
  const [own, keep] = useFigures(child ? "children" : "adults");
  const chosen = own ?? (child ? registry.usual_of_a_child : registry.usual);
  const order = registry.measures.map((m) => m.name);
  const offTheBag = strikes.kind[shown] !== "bag";
  const names = [...new Set(order.filter((n) => chosen.includes(n)).map((n) => (offTheBag && STANDS_IN[n]) || n))];
  return {
    names: names.flatMap((n) => findMeasure(registry, n) ?? []),
    has: (name) => chosen.includes(name),
    toggle: (name) => keep(chosen.includes(name) ? chosen.filter((c) => c !== name) : order.filter((n) => n === name || chosen.includes(n))),
  };
}
