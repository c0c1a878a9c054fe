import { findMeasure, show, type Measure } from "../../format";
import type { Schemas } from "../../api/client";
import { useUnits } from "../../ui/settings";
import type { Figure } from "../heard/figure";
import type { Struck } from "../heard/take";
import { UsualBar } from "../between/UsualBar";

type Usual = Schemas["Usual"];
const ALSO = ["load_shift_pct", "peak_speed_m_s", "effective_mass_kg", "settle_ms", "turn_done_pct", "impulse_n_s"];
const ALSO_OF_A_CHILD = ["turn_done_pct", "return_ms", "path_ratio", "settle_ms"];
const FULL = 1; // median of the usual range

interface Props {
  registry: Schemas["Registry"];
  figure: Figure;
  strikes: Struck[];
  usual: Usual[];
  child: boolean;
  levels: Record<string, string>;
}

/** The last strike against the student's own usual, and two figures more. */
export function Beside({ registry, figure, strikes, usual, child, levels }: Props) {
  const [units] = useUnits();
  const m = figure.measure;
  const own = usual.find((u) => u.measure === m.name);
  const last = strikes.at(-1);
  const values = strikes.flatMap((s) => s.measures[m.name]?.[0] ?? []);
  const also = (child ? ALSO_OF_A_CHILD : ALSO).filter((n) => n !== m.name && last?.measures[n]).slice(0, 2);
  const effort = levels.effort;
  const share = own && effort && values.length ? values.at(-1)! / ((FULL * (own.low + own.high)) / 2) : null;
  return (
    <div className="flex flex-col gap-3 pt-3">
      {own ? (
        <>
          <p className="text-lg text-soft">{effort ? `asked for: ${effort}` : child ? "usual" : "usual this way"}</p>
          {share !== null ? (
            <p className="text-xl">
              <b className="figure text-3xl">{Math.round(100 * share)} %</b> <span className="text-soft">of a usual full one</span>
            </p>
          ) : (
            <UsualBar measure={m} usual={own} values={values} side={last?.limb.split("_")[0] ?? ""} units={units} />
          )}
        </>
      ) : (
        <p className="text-lg text-soft">{effort ? `asked for: ${effort}` : "No usual range yet: it takes a dozen strikes of other evenings."}</p>
      )}
      {figure.choice !== "word" && (
        <ul className="flex flex-col gap-1 text-lg sm:text-2xl">
          {also.map((name) => (
            <Also key={name} measure={findMeasure(registry, name)!} value={last!.measures[name]!} usual={usual.find((u) => u.measure === name)} />
          ))}
        </ul>
      )}
    </div>
  );
}

function Also({ measure, value, usual }: { measure: Measure; value: number[]; usual: Usual | undefined }) {
  const [units] = useUnits();
  const shown = show(measure, value[0], value[1], units)!;
  const middle = usual && show(measure, (usual.low + usual.high) / 2, null, units);
  return (
    <li className="leading-tight">
      <b>{measure.label}</b>{" "}
      <span className="numeric">
        {shown.value} {shown.unit}
      </span>{" "}
      {middle && <span className="numeric text-soft">usual {middle.value}</span>}
    </li>
  );
}
