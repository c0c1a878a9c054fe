import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, unwrap } from "../api/client";
import { Problem } from "../ui/state";

const LOOK_MS = 3000; // while something waits

/** Turns whose figures are still the first ones: that they wait, or could not be settled, and the way on. */
export function Unsettled({ eveningId }: { eveningId: number }) {
  const queries = useQueryClient();
  const key = ["unsettled", eveningId];
  const turns = useQuery({
    queryKey: key,
    queryFn: async () => unwrap(await client.GET("/api/evenings/{evening_id}/unsettled", { params: { path: { evening_id: eveningId } } })),
    refetchInterval: (query) => (query.state.data?.some((t) => !t.failed) ? LOOK_MS : false),
  });
  const again = useMutation({
    mutationFn: async (take: number) => unwrap(await client.POST("/api/takes/{take_id}/settle", { params: { path: { take_id: take } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: key }),
  });
  const left = turns.data?.length ?? 0;
  const before = useRef(0);
  useEffect(() => {
    if (left < before.current) void queries.invalidateQueries({ queryKey: ["evening", eveningId] });
    before.current = left;
  }, [left]);
  if (!turns.data?.length) return null;
  const failed = turns.data.filter((t) => t.failed);
  return (
    <section aria-label="Not settled" role="status" className="mb-4 border-l-4 border-buoy bg-shade py-2 pl-3">
      {failed.map((t) => (
        <p key={t.take_id} className="flex flex-wrap items-center gap-3 py-1">
          <span>
            A turn of this evening could not be settled: its figures are the first ones, its samples are kept. Reference <b className="numeric">{t.failed}</b>.
          </span>
          <button className="action min-h-11 px-4" disabled={again.isPending} onClick={() => again.mutate(t.take_id)}>
            Try again
          </button>
        </p>
      ))}
      {turns.data.length > failed.length && <p className="py-1">A turn is not closed yet: its figures settle as soon as all of it has come, ten minutes after it at the latest.</p>}
      <Problem error={again.error} />
    </section>
  );
}
