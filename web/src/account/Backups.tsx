import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";
import { useZone } from "../api/queries";
import { clock, day, megabytes } from "../format";
import { Problem } from "../ui/state";

const LOOK_MS = 3000;

/** When all of it was last written away, and one more. */
export function Backups() {
  const queries = useQueryClient();
  const zone = useZone();
  const make = useMutation({
    mutationFn: async () => {
      unwrap(await client.POST("/api/backups"));
      return queries.getQueryData<unknown[]>(["backups"])?.length ?? 0;
    },
    onSettled: () => queries.invalidateQueries({ queryKey: ["backups"] }),
  });
  const backups = useQuery({
    queryKey: ["backups"],
    queryFn: async () => unwrap(await client.GET("/api/backups")),
    refetchInterval: () => (make.data !== undefined ? LOOK_MS : false),
  });
  const last = backups.data?.[0];
  const waits = make.data !== undefined && last !== undefined && Date.parse(last.made_at) < make.submittedAt;
  return (
    <section aria-label="Backups" className="mt-8 border-t border-line pt-3">
      <h2 className="wide-title text-lg">Backups</h2>
      <p className="mt-1">
        {last ? `The last one: ${day(last.made_at, zone)}, ${clock(last.made_at, 0, zone)}, ${megabytes(last.size_bytes)}; ${backups.data!.length} are kept.` : "None was written yet: the first comes tonight."}
      </p>
      <p className="mt-1 text-2xs text-soft">All gyms of this server, each night, on the server&apos;s own disk. Who keeps the server knows how to restore one.</p>
      <button className="action mt-2 min-h-11" disabled={make.isPending || waits} onClick={() => make.mutate()}>
        {make.isPending || waits ? "Writing …" : "Write one now"}
      </button>
      <Problem error={make.error ?? backups.error} />
    </section>
  );
}
