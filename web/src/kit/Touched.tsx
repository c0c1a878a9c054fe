import { useQuery } from "@tanstack/react-query";
import { running, useAgain } from "../api/again";
import { client, unwrap, type Schemas } from "../api/client";
import { useRegistry } from "../api/queries";
import { day, show } from "../format";
import { AgainBar } from "../ui/AgainBar";
import { Problem } from "../ui/state";
import { useUnits } from "../ui/settings";

const SHOWN = ["impulse_n_s", "peak_force_n", "hit_below_top_m", "contact_speed_m_s", "effective_mass_kg"];

/** What a calibration touches: analysed again one by one or all at once, in the queue, before and after side by side. */
export function Touched({ id, zone }: { id: number; zone: string }) {
  const rows = useQuery({
    queryKey: ["touches", id],
    queryFn: async () => unwrap(await client.GET("/api/calibrations/{calibration_id}/touches", { params: { path: { calibration_id: id } } })),
  });
  const again = useAgain();
  if (rows.error) return <Problem error={rows.error} />;
  if (!rows.data) return <p className="text-soft">Looking …</p>;
  if (rows.data.length === 0) return <p className="text-soft">No recording whose raw samples are kept.</p>;
  return (
    <div>
      {rows.data.length > 1 && (
        <button className="action mt-1" disabled={again.busy} onClick={() => again.start(rows.data.map((r) => r.id))}>
          Analyse all {rows.data.length} again
        </button>
      )}
      <AgainBar told={again.told} cancel={again.cancel} />
      <Problem error={again.error} />
      <ul className="max-h-96 overflow-auto">
        {rows.data.map((r) => (
          <li key={r.id} className="border-b border-line py-1">
            <div className="flex items-center justify-between gap-3">
              <span>
                {r.student}, {day(r.acquired_at, zone)}, {r.task}
              </span>
              <button className="plain py-1" disabled={again.busy} onClick={() => again.start([r.id])}>
                {again.told?.recordings.includes(r.id) && running(again.told) ? "In the queue …" : "Analyse again"}
              </button>
            </div>
            <BeforeAfter result={again.told?.results.find((one) => one.recording_id === r.id)} />
          </li>
        ))}
      </ul>
    </div>
  );
}

/** Means of all that count, before and after. */
function BeforeAfter({ result }: { result: Schemas["AgainResult"] | undefined }) {
  const registry = useRegistry();
  const [units] = useUnits();
  if (!result || !registry.data) return null;
  if (result.problem) return <p className="border-l-4 border-buoy pl-2">{result.problem}</p>;
  return (
    <table className="numeric mt-1 mb-2 w-full text-left">
      <thead className="text-soft">
        <tr>
          <th className="font-normal">mean of all that count</th>
          <th className="text-right font-normal">before</th>
          <th className="text-right font-normal">after</th>
        </tr>
      </thead>
      <tbody>
        {result.rows
          .filter((b) => SHOWN.includes(b.measure))
          .map((b) => {
            const m = registry.data.measures.find((one) => one.name === b.measure)!;
            const q = (v: number | null) => {
              const shown = show(m, v, null, units);
              return shown ? `${shown.value} ${shown.unit}` : "–";
            };
            return (
              <tr key={b.measure}>
                <td>{m.label}</td>
                <td className="text-right">{q(b.before)}</td>
                <td className="text-right font-semibold">{q(b.after)}</td>
              </tr>
            );
          })}
      </tbody>
    </table>
  );
}
