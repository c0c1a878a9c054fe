import type { Schemas } from "../api/client";
import { useStrikeName } from "../ui/StrikePicker";
import { digits } from "../format";

interface Props {
  sides: Schemas["SidesOut"][];
  behind: Schemas["BehindOut"];
  code: string;
}

const SAID: Record<string, string> = { level: "level", stronger: "stronger", weaker: "weaker", not_settled: "not settled" };

/** Left against right in the same strike, rear against lead, and how often the body is behind it. */
export function Sides({ sides, behind, code }: Props) {
  const nameOf = useStrikeName();
  const family = nameOf(code.split("-").slice(1).join("-"));
  return (
    <section aria-label="Sides and body">
      <h2 className="wide-title text-base">Sides, and the body behind it</h2>
      <table className="w-full">
        <tbody>
          {sides.map((s) => (
            <tr key={s.first} className="border-t border-line">
              <th scope="row" className="py-1 pr-2 text-left font-normal">
                {s.first === "left" ? `Left against right, ${nameOf(code)}` : `Rear against lead, ${family}`}
              </th>
              <td className="py-1 text-right">
                {s.pct === null || s.low === null || s.high === null ? (
                  <span className="text-2xs text-soft">{s.why_not}</span>
                ) : (
                  <>
                    <b className={`figure text-base ${s.first === "left" && s.verdict !== "level" && s.verdict !== "not_settled" ? "text-buoy-ink" : ""}`}>
                      {s.pct > 0 ? "+" : ""}
                      {digits(s.pct, 0)} %
                    </b>{" "}
                    <span className="numeric text-2xs text-soft">
                      ({digits(s.low, 0)} to {digits(s.high, 0)}) {SAID[s.verdict]}
                    </span>
                  </>
                )}
              </td>
            </tr>
          ))}
          <tr className="border-t border-line">
            <th scope="row" className="py-1 pr-2 text-left font-normal">
              Strikes with more behind them than the limb alone
            </th>
            <td className="py-1 text-right whitespace-nowrap">
              {behind.share === null ? (
                <span className="text-2xs text-soft">needs a wrist or ankle unit, and body mass</span>
              ) : (
                <>
                  <b className="figure text-base">{digits(100 * behind.share, 0)} %</b>{" "}
                  <span className="numeric text-2xs text-soft">
                    ({digits(100 * behind.low!, 0)} to {digits(100 * behind.high!, 0)}) of {digits(behind.strikes, 0)}
                  </span>
                </>
              )}
            </td>
          </tr>
        </tbody>
      </table>
      {behind.evenings.length > 1 && (
        <div className="mt-1 flex h-9 items-end gap-0.5" role="img" aria-label={behind.evenings.map((e) => `${e.on}: ${digits(100 * (e.share ?? 0), 0)} %`).join(", ")}>
          {behind.evenings.map((e) => (
            <span key={e.on} className="flex-1 bg-shade" style={{ height: "100%" }} title={`${e.on}: ${digits(100 * (e.share ?? 0), 0)} % of ${e.strikes}`}>
              <span className="block w-full bg-oar" style={{ height: `${100 * (e.share ?? 0)}%`, marginTop: `${(1 - (e.share ?? 0)) * 2.25}rem` }} />
            </span>
          ))}
        </div>
      )}
    </section>
  );
}
