import { useIsMutating, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { say } from "../ui/toast";
import { client, unwrap } from "./client";

export type Kind = "student" | "recording" | "bag" | "school" | "trial";

const REMOVAL = ["removal"];

/** Whether something is on its way out or back, lists and all: what the page shows may be gone, and is not asked for. */
export function useRemoving(): boolean {
  return useIsMutating({ mutationKey: REMOVAL }) > 0;
}

/** Take something out of sight, with the way back; and put it back. */
export function useRemoval(after?: () => void) {
  const queries = useQueryClient();
  // lists first: the page goes on to what is still there before all else is asked for anew
  const settle = async () => {
    await queries.invalidateQueries({ queryKey: ["students"] });
    await new Promise((next) => setTimeout(next, 30));
    await queries.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "students" });
  };
  const takeBack = useMutation({
    mutationKey: REMOVAL,
    mutationFn: async (what: { kind: Kind; id: number }) => unwrap(await client.POST("/api/removals/undo", { body: what })),
    onSuccess: (made) => say({ text: `${made.name} is back.` }),
    onError: (error) => say({ text: error.message }),
    onSettled: settle,
  });
  const remove = useMutation({
    mutationKey: REMOVAL,
    mutationFn: async (what: { kind: Kind; id: number }) => unwrap(await client.POST("/api/removals", { body: what })),
    onMutate: () => queries.cancelQueries(), // what is still on its way may soon be of something that is gone
    onSuccess: (made, what) => {
      say({ text: `${made.name} was removed, with all that goes with it.`, back: () => takeBack.mutate(what) });
      after?.();
    },
    onError: (error) => say({ text: error.message }),
    onSettled: settle,
  });
  return { remove: (kind: Kind, id: number) => remove.mutate({ kind, id }), takeBack: (kind: Kind, id: number) => takeBack.mutate({ kind, id }), busy: remove.isPending || takeBack.isPending };
}

export function useRemoved() {
  return useQuery({ queryKey: ["removals"], queryFn: async () => unwrap(await client.GET("/api/removals")) });
}
