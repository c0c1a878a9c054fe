import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { stamped } from "../heard/clock";
import type { Take } from "../heard/shapes";
import { tap, useWaiting } from "./outbox";

interface StepUp {
  stepUp: (studentId: number, done?: () => void) => void;
  waits: number | null; //: the student whose tap the server has not had yet
  error: Error | null;
}

/** A student steps up to the bag: from the tap on, however long the server is away. */
export function useStepUp(stationId: number | null): StepUp {
  const queries = useQueryClient();
  const [error, setError] = useState<Error | null>(null);
  const waiting = useWaiting().flatMap((t) => (t.what === "step" && t.station === stationId ? [t.body.student_id] : []));
  const stepUp = (studentId: number, done?: () => void) => {
    if (stationId === null) return;
    const { at, key } = stamped();
    setError(null);
    tap({ what: "step", station: stationId, body: { student_id: studentId, at, key } }, setError, (answer) => {
      void queries.cancelQueries({ queryKey: ["take", stationId] }).then(() => {
        const take = answer as Take;
        if (take.ended_at) return queries.invalidateQueries({ queryKey: ["take", stationId] }); // another has stepped up since
        queries.setQueryData(["take", stationId], take);
        done?.();
      });
      void queries.invalidateQueries({ queryKey: ["tonight"] });
    });
  };
  return { stepUp, waits: waiting.at(-1) ?? null, error };
}
