import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { forgetSeen } from "../shell/offline";
import { client, unwrap, type Schemas } from "./client";

/** From the demo gym to an empty one of one's own, and back: nothing of the one is shown in the other. */
export function useCrossOver() {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/session/other-gym")),
    onSuccess: async (me) => {
      await forgetSeen();
      sessionStorage.removeItem("student");
      localStorage.removeItem("station");
      await navigate("/students");
      queries.removeQueries({ predicate: (q) => q.queryKey[0] !== "me" });
      queries.setQueryData(["me"], { me });
      await queries.invalidateQueries({ queryKey: ["me"] });
    },
  });
}

export function useRename() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async (body: Schemas["GymIn"]) => unwrap(await client.PUT("/api/gym", { body })),
    onSuccess: (me) => queries.setQueryData(["me"], { me }),
  });
}
