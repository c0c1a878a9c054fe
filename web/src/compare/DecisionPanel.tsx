import { useState } from "react";
import type { Schemas } from "../api/client";
import { useDecision } from "../api/trials";
import { longDay } from "../format";
import { Problem } from "../ui/state";
import { DECISIONS } from "./words";
import { Radios } from "../ui/Radios";

interface Props {
  trial: Schemas["TrialOut"];
  studentId: number;
  level: string;
  said: string;
}

/** What was decided and why; a new decision, with its reason, and the way back. */
export function DecisionPanel({ trial, studentId, level, said }: Props) {
  const { decide, undo } = useDecision(trial.id);
  const [what, setWhat] = useState("");
  const [reason, setReason] = useState("");
  const [fresh, setFresh] = useState<number | null>(null);
  const past = trial.decisions.filter((d) => d.student_id === studentId);
  return (
    <section aria-label="Your decision">
      <h2 className="wide-title text-base">Your decision</h2>
      {past.length === 0 && <p className="text-soft">None yet.</p>}
      <ul className="space-y-1">
        {past.slice(0, 2).map((d) => (
          <li key={d.id}>
            <b>{DECISIONS[d.what]}</b>, {longDay(d.decided_on)}: {d.level}. <span className="text-soft">{d.reason}</span>
            {d.id === fresh && (
              <button className="plain no-print ml-2 font-semibold" onClick={() => undo.mutate(d.id)}>
                Undo
              </button>
            )}
          </li>
        ))}
      </ul>
      <form
        className="no-print mt-2 space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          decide.mutate(
            { student_id: studentId, what, level, reason, said },
            {
              onSuccess: (made) => {
                setFresh(made.id);
                setWhat("");
                setReason("");
              },
            },
          );
        }}
      >
        <Radios name={`Decide on ${level}`} values={Object.keys(DECISIONS)} chosen={what || null} choose={setWhat} tell={(key) => DECISIONS[key]} className="grid grid-cols-3 gap-2" each="min-h-11" />
        {what && (
          <div className="flex gap-2">
            <input className="field min-w-0 flex-1" aria-label="Why" placeholder="Why, in a few words" required autoFocus maxLength={2000} value={reason} onChange={(e) => setReason(e.target.value)} />
            <button className="action-main" disabled={decide.isPending}>
              Record
            </button>
            <button type="button" className="plain" onClick={() => setWhat("")}>
              Not now
            </button>
          </div>
        )}
        <Problem error={decide.error ?? undo.error} />
      </form>
    </section>
  );
}
