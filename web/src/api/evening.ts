import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "./client";

/** One student's evening with all that was planned, thrown and said in it. */
export function useEvening(id: number | null) {
  return useQuery({
    queryKey: ["evening", id],
    enabled: id !== null,
    queryFn: async () => unwrap(await client.GET("/api/evenings/{evening_id}", { params: { path: { evening_id: id! } } })),
  });
}

export function useEvenings(studentId: number) {
  return useQuery({
    queryKey: ["students", studentId, "evenings"],
    queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/evenings", { params: { path: { student_id: studentId } } })),
  });
}

/** The evening of a day, made where there is none. */
export function useStartEvening(studentId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (day: string) => unwrap(await client.POST("/api/students/{student_id}/evenings", { params: { path: { student_id: studentId } }, body: { day } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["students", studentId, "evenings"] }),
  });
}

export function useEveningNotes(id: number) {
  const refresh = useRefresh(id);
  return useMutation({
    mutationFn: async (body: Schemas["EveningNotesIn"]) => unwrap(await client.PUT("/api/evenings/{evening_id}/notes", { params: { path: { evening_id: id } }, body })),
    onSettled: refresh,
  });
}

export function usePlanSet(id: number) {
  const refresh = useRefresh(id);
  return useMutation({
    mutationFn: async (body: Schemas["PlanIn"]) => unwrap(await client.POST("/api/evenings/{evening_id}/sets", { params: { path: { evening_id: id } }, body })),
    onSuccess: refresh,
  });
}

export function useDropSet(id: number) {
  const refresh = useRefresh(id);
  return useMutation({
    mutationFn: async (planned: number) => unwrap(await client.DELETE("/api/planned-sets/{planned_id}", { params: { path: { planned_id: planned } } })),
    onSuccess: refresh,
  });
}

function useRefresh(id: number) {
  const queries = useQueryClient();
  return () => queries.invalidateQueries({ queryKey: ["evening", id] });
}
