import type { Schemas } from "../api/client";
import { convert, digits, limbName } from "../format";
import { useUnits } from "../ui/settings";

/** What the week asks of each limb, against the weeks before. */
export function Limbs({ limbs }: { limbs: Schemas["LimbLoadOut"][] }) {
  const [units] = useUnits();
  if (limbs.length === 0) return null;
  const impulse = (v: number) => digits(convert(v, "N s", 0, units)[0], 0);
  const told = limbs.some((l) => l.impulse_n_s > 0 || l.usual_impulse_n_s > 0);
  const hard = limbs.some((l) => l.hard !== null);
  return (
    <section aria-label="By limb" className="mt-4">
      <h2 className="wide-title text-base">By limb, this week and usual</h2>
      <table className="numeric w-full">
        <thead>
          <tr className="border-b border-ink text-right text-2xs">
            <th />
            <th className="py-1 font-semibold">Strikes</th>
            {hard && <th className="py-1 font-semibold">Hard ones</th>}
            {told && <th className="py-1 font-semibold">Impulse, {convert(1, "N s", 0, units)[1]}</th>}
          </tr>
        </thead>
        <tbody>
          {limbs.map((l) => (
            <tr key={l.limb} className="border-b border-line text-right">
              <th scope="row" className="py-1 text-left font-normal">
                {limbName(l.limb)}
              </th>
              <td>
                {l.strikes} <span className="text-soft">/ {digits(l.usual_strikes, 0)}</span>
              </td>
              {hard && <td>{l.hard === null ? "" : <>{l.hard} <span className="text-soft">/ {digits(l.usual_hard ?? 0, 0)}</span></>}</td>}
              {told && (
                <td>
                  {impulse(l.impulse_n_s)} <span className="text-soft">/ {impulse(l.usual_impulse_n_s)}</span>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {hard && <p className="text-2xs text-soft">Hard is above three in four of the limb’s own strikes before.</p>}
    </section>
  );
}
