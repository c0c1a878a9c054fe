import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "./client";

export function useTrials() {
  return useQuery({ queryKey: ["trials"], queryFn: async () => unwrap(await client.GET("/api/trials")) });
}

export interface Asked {
  student: number | undefined; //: everybody where undefined
  measure: string;
  levels: string; //: two of the trial's, with a bar between
  worth: number | undefined;
  only: string;
}

/** What was remarked on under each level. */
export function useRemarked(trialId: number, asked: Asked) {
  return useQuery({
    queryKey: ["trials", trialId, "remarks", asked],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () =>
      unwrap(
        await client.GET("/api/trials/{trial_id}/remarks", {
          params: { path: { trial_id: trialId }, query: { student_id: asked.student, measure: asked.measure, levels: asked.levels, only: asked.only } },
        }),
      ),
  });
}

export function useComparison(trialId: number | undefined, asked: Asked) {
  return useQuery({
    queryKey: ["trials", trialId, "compare", asked],
    enabled: trialId !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () =>
      unwrap(
        await client.GET("/api/trials/{trial_id}/compare", {
          params: {
            path: { trial_id: trialId! },
            query: { student_id: asked.student, measure: asked.measure, levels: asked.levels, worth_pct: asked.worth, only: asked.only },
          },
        }),
      ),
  });
}

export function usePlan(text: Schemas["TrialIn"] | null) {
  return useQuery({
    queryKey: ["trial-plans", text],
    enabled: text !== null,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () => unwrap(await client.POST("/api/trial-plans", { body: text! })),
  });
}

export function useSaveTrial(trialId: number | undefined) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (body: Schemas["TrialIn"]) =>
      trialId === undefined
        ? unwrap(await client.POST("/api/trials", { body }))
        : unwrap(await client.PUT("/api/trials/{trial_id}", { params: { path: { trial_id: trialId } }, body })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["trials"] }),
  });
}

export function useEndTrial() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ id, ended, version }: { id: number; ended: boolean; version: number }) =>
      unwrap(await client.POST("/api/trials/{trial_id}/end", { params: { path: { trial_id: id } }, body: { ended, version } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["trials"] }),
  });
}

/** Record a decision, and take it back. */
export function useDecision(trialId: number) {
  const queries = useQueryClient();
  const settle = () =>
    Promise.all([["trials"], ["class"], ["weeks"]].map((queryKey) => queries.invalidateQueries({ queryKey, exact: queryKey[0] === "trials" })));
  const decide = useMutation({
    mutationFn: async (body: Schemas["DecisionIn"]) =>
      unwrap(await client.POST("/api/trials/{trial_id}/decisions", { params: { path: { trial_id: trialId } }, body })),
    onSettled: settle,
  });
  const undo = useMutation({
    mutationFn: async (id: number) => unwrap(await client.DELETE("/api/decisions/{decision_id}", { params: { path: { decision_id: id } } })),
    onSettled: settle,
  });
  return { decide, undo };
}

export function useSheet(trialId: number, studentId: number | undefined) {
  return useQuery({
    queryKey: ["trials", trialId, "sheet", studentId],
    enabled: studentId !== undefined,
    queryFn: async () =>
      unwrap(await client.GET("/api/trials/{trial_id}/sheet", { params: { path: { trial_id: trialId }, query: { student_id: studentId! } } })),
  });
}

/** Call a block of the sheet, end it, take it back. */
export function useBlocks(trialId: number, studentId: number) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["trials", trialId, "sheet", studentId] });
  const call = useMutation({
    mutationFn: async (place: number) =>
      unwrap(await client.POST("/api/trials/{trial_id}/blocks", { params: { path: { trial_id: trialId } }, body: { student_id: studentId, place } })),
    onSettled,
  });
  const end = useMutation({
    mutationFn: async (id: number) => unwrap(await client.POST("/api/called-blocks/{block_id}/end", { params: { path: { block_id: id } } })),
    onSettled,
  });
  const takeBack = useMutation({
    mutationFn: async (id: number) => unwrap(await client.DELETE("/api/called-blocks/{block_id}", { params: { path: { block_id: id } } })),
    onSettled,
  });
  return { call, end, takeBack };
}

export function useWeeks(studentId: number, code: string, measure: string, ownWay: boolean, limb: string) {
  return useQuery({
    queryKey: ["weeks", studentId, code, measure, ownWay, limb],
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () =>
      unwrap(
        await client.GET("/api/students/{student_id}/weeks", {
          params: { path: { student_id: studentId }, query: { code, measure, own_way: ownWay, limb } },
        }),
      ),
  });
}

/** Mark an injury, a break or something other in a student's weeks, and take it off. */
export function useMarks(studentId: number) {
  const queries = useQueryClient();
  const onSettled = () => queries.invalidateQueries({ queryKey: ["weeks", studentId] });
  const add = useMutation({
    mutationFn: async (body: Schemas["MarkIn"]) =>
      unwrap(await client.POST("/api/students/{student_id}/marks", { params: { path: { student_id: studentId } }, body })),
    onSettled,
  });
  const remove = useMutation({
    mutationFn: async (id: number) => unwrap(await client.DELETE("/api/marks/{mark_id}", { params: { path: { mark_id: id } } })),
    onSettled,
  });
  return { add, remove };
}

export function useClass() {
  return useQuery({ queryKey: ["class"], queryFn: async () => unwrap(await client.GET("/api/class")) });
}
