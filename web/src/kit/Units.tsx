import { useKitUnits, useZone } from "../api/queries";
import { day, digits, longDay } from "../format";
import { Failed, Loading } from "../ui/state";

const G = 9.80665;

const LOW_BATTERY = 25;

/** The units as the last recordings showed them. */
export function Units() {
  const units = useKitUnits();
  const zone = useZone();
  if (units.error) return <Failed error={units.error} retry={() => void units.refetch()} />;
  if (!units.data) return <Loading what="the units" />;
  return (
    <section className="mt-10">
      <h2 className="wide-title text-2xl">Units</h2>
      {units.data.length === 0 ? (
        <p className="mt-2 text-soft">Units appear here with the first recording that they are in.</p>
      ) : (
        <table className="mt-2 w-full text-left">
          <thead className="text-soft">
            <tr className="border-b border-line [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-semibold">
              <th>Worn at</th>
              <th className="text-right">Samples a second</th>
              <th className="text-right">Ends at</th>
              <th className="text-right">Battery</th>
              <th>Last seen</th>
              <th>Calibrated</th>
            </tr>
          </thead>
          <tbody>
            {units.data.map((u) => {
              const late = u.expires_on !== null && new Date(u.expires_on) < new Date();
              return (
                <tr key={u.placement} className="border-b border-line [&>td]:py-1.5 [&>td]:pr-3">
                  <td className="font-semibold">{u.placement.replace(/^(left|right)/, "$1 ")}</td>
                  <td className="numeric text-right">{digits(u.rate_hz, 0)}</td>
                  <td className="numeric text-right">{u.accel_full_scale_m_s2 ? `${digits(u.accel_full_scale_m_s2 / G, 0)} g` : "not told"}</td>
                  <td className={`numeric text-right ${u.battery_pct !== null && u.battery_pct < LOW_BATTERY ? "font-semibold text-buoy-ink" : ""}`}>
                    {u.battery_pct === null ? <span className="text-soft">not told</span> : `${digits(u.battery_pct, 0)} %${u.battery_pct < LOW_BATTERY ? ", charge it" : ""}`}
                  </td>
                  <td>{day(u.last_seen, zone)}</td>
                  <td className={late ? "font-semibold text-buoy-ink" : ""}>
                    {u.calibrated_on ? `${longDay(u.calibrated_on)}${late ? ", too long ago" : ""}` : <span className="text-soft">as delivered</span>}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
