import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, unwrap, type Schemas } from "./client";

const ASK_MS = 400;
const RESTS_ON = ["recordings", "strike", "curves", "evening", "trials", "weeks", "class"];

/** Recordings analysed again in the queue: begin, follow, cancel. What rests on them is fetched anew when it is done. */
export function useAgain() {
  const queries = useQueryClient();
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
    if (done !== null) for (const key of RESTS_ON) void queries.invalidateQueries({ queryKey: [key] });
  }, [done, queries]);
  return {
    start: (recordings: number[]) => start.mutate(recordings),
    cancel: () => told.data && cancel.mutate(told.data.id),
    told: told.data,
    busy: start.isPending || running(told.data),
    error: start.error ?? told.error ?? cancel.error,
  };
}

export function running(work: Schemas["AgainOut"] | undefined): boolean {
  return work?.state === "queued" || work?.state === "running";
}
