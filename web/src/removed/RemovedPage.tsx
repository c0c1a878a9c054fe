import { useRemoval, useRemoved, type Kind } from "../api/removal";
import { useZone } from "../api/queries";
import { day } from "../format";
import { Empty, Failed, Loading } from "../ui/state";

const KINDS: Record<string, string> = { student: "Student", recording: "Recording", bag: "Bag", school: "School", trial: "Trial" };

/** What was taken away and can be taken back. */
export function RemovedPage() {
  const removed = useRemoved();
  const zone = useZone();
  const { takeBack, busy } = useRemoval();
  if (removed.error) return <Failed error={removed.error} retry={() => void removed.refetch()} />;
  if (!removed.data) return <Loading what="what was removed" />;
  return (
    <div className="mx-auto max-w-3xl p-6">
      <h1 className="wide-title text-2xl">Removed</h1>
      <p className="mt-1 text-soft">Out of sight and out of every comparison, with all that goes with it; nothing of it is lost until a person is erased.</p>
      {removed.data.length === 0 ? (
        <Empty title="Nothing was removed">What you take away is kept here, and can be taken back.</Empty>
      ) : (
        <ul className="mt-4 border-t border-line">
          {removed.data.map((r) => (
            <li key={`${r.kind}-${r.id}`} className="flex min-h-12 items-center gap-4 border-b border-line">
              <span className="w-24 text-soft">{KINDS[r.kind]}</span>
              <span className="flex-1 font-semibold">{r.name}</span>
              <span className="numeric text-soft">{day(r.removed_at, zone)}</span>
              <button className="action" disabled={busy} onClick={() => takeBack(r.kind as Kind, r.id)}>
                Take back
              </button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
