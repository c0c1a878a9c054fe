import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";

/** A student came, or did not. */
export function useCame() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ studentId, here }: { studentId: number; here: boolean }) =>
      unwrap(await client.PUT("/api/tonight/{student_id}", { params: { path: { student_id: studentId } }, body: { here } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["tonight"] }),
  });
}
