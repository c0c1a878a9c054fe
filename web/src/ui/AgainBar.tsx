import type { Schemas } from "../api/client";
import { running } from "../api/again";
import { Bar } from "./Bar";

/** How far an analysis of recordings has come, and the way to stop it. */
export function AgainBar({ told, cancel }: { told: Schemas["AgainOut"] | undefined; cancel: () => void }) {
  if (!told) return null;
  if (!running(told)) return told.message ? <p className="mt-1">{told.message}</p> : null;
  return (
    <div className="flex items-center gap-4">
      <div className="flex-1">
        <Bar share={told.progress} label="Analysing again" />
      </div>
      <span className="numeric text-soft">
        {told.results.length} of {told.recordings.length}
      </span>
      <button className="plain py-1" onClick={cancel}>
        Cancel
      </button>
    </div>
  );
}
