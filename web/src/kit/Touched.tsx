import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useRegistry } from "../api/queries";
import { day, show } from "../format";
import { Bar } from "../ui/Bar";
import { Problem } from "../ui/state";
import { useUnits } from "../ui/settings";

const SHOWN = ["impulse_n_s", "peak_force_n", "hit_below_top_m", "contact_speed_m_s", "effective_mass_kg"];
const ASK_MS = 400;

/** What a calibration touches: analysed again one by one or all at once, in the queue, before and after side by side. */
export function Touched({ id, zone }: { id: number; zone: string }) {
  const queries = useQueryClient();
  const rows = useQuery({
    queryKey: ["touches", id],
    queryFn: async () => unwrap(await client.GET("/api/calibrations/{calibration_id}/touches", { params: { path: { calibration_id: id } } })),
  });
  const [work, setWork] = useState<number | null>(null);
  const start = useMutation({
    mutationFn: async (recordings: number[]) => unwrap(await client.POST("/api/reanalyses", { body: { recordings } })),
    onSuccess: (made) => setWork(made.id),
  });
  const cancel = useMutation({
    mutationFn: async (key: number) => unwrap(await client.POST("/api/reanalyses/{reanalysis_id}/cancel", { params: { path: { reanalysis_id: key } } })),
  });
  const told = useQuery({
    queryKey: ["reanalyses", work],
    enabled: work !== null,
    queryFn: async () => unwrap(await client.GET("/api/reanalyses/{reanalysis_id}", { params: { path: { reanalysis_id: work! } } })),
    refetchInterval: (query) => (running(query.state.data) ? ASK_MS : false),
  });
  const done = told.data && !running(told.data) ? told.data.id : null;
  useEffect(() => {
    // what was computed anew is fetched anew, wherever it is shown
    if (done !== null) for (const key of ["recordings", "trials", "weeks", "class"]) void queries.invalidateQueries({ queryKey: [key] });
  }, [done, queries]);
  if (rows.error) return <Problem error={rows.error} />;
  if (!rows.data) return <p className="text-soft">Looking …</p>;
  if (rows.data.length === 0) return <p className="text-soft">No recording whose raw samples are kept.</p>;
  const busy = start.isPending || running(told.data);
  return (
    <div>
      {rows.data.length > 1 && (
        <button className="action mt-1" disabled={busy} onClick={() => start.mutate(rows.data.map((r) => r.id))}>
          Analyse all {rows.data.length} again
        </button>
      )}
      {told.data && running(told.data) && (
        <div className="flex items-center gap-4">
          <div className="flex-1">
            <Bar share={told.data.progress} label="Analysing again" />
          </div>
          <span className="numeric text-soft">
            {told.data.results.length} of {told.data.recordings.length}
          </span>
          <button className="plain py-1" onClick={() => cancel.mutate(told.data.id)}>
            Cancel
          </button>
        </div>
      )}
      {told.data?.message && <p className="mt-1">{told.data.message}</p>}
      <Problem error={start.error ?? told.error ?? cancel.error} />
      <ul>
        {rows.data.map((r) => (
          <li key={r.id} className="border-b border-line py-1">
            <div className="flex items-center justify-between gap-3">
              <span>
                {r.student}, {day(r.acquired_at, zone)}, {r.task}
              </span>
              <button className="plain py-1" disabled={busy} onClick={() => start.mutate([r.id])}>
                {told.data?.recordings.includes(r.id) && running(told.data) ? "In the queue …" : "Analyse again"}
              </button>
            </div>
            <BeforeAfter result={told.data?.results.find((one) => one.recording_id === r.id)} />
          </li>
        ))}
      </ul>
    </div>
  );
}

function running(work: Schemas["AgainOut"] | undefined): boolean {
  return work?.state === "queued" || work?.state === "running";
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
