import { Link, useNavigate } from "react-router";
import { useEvenings, useStartEvening } from "../api/evening";
import { useRecordings, useZone } from "../api/queries";
import { clock, day, minutes, today } from "../format";
import { Empty, Failed, Loading, Problem } from "../ui/state";

/** A student's evenings, the newest first, each with what was recorded in it; and the way to start tonight's. */
export function Evenings({ studentId }: { studentId: number }) {
  const recordings = useRecordings(studentId);
  const evenings = useEvenings(studentId);
  const zone = useZone();
  const navigate = useNavigate();
  const start = useStartEvening(studentId);
  const failed = recordings.error ?? evenings.error;
  if (failed) return <Failed error={failed} retry={() => void evenings.refetch()} />;
  if (!recordings.data || !evenings.data) return <Loading what="the evenings" />;
  const tonight = evenings.data.find((e) => e.day === today(zone));
  return (
    <section>
      <div className="flex items-center justify-between">
        <h2 className="wide-title text-lg">Evenings</h2>
        <button
          className="action no-print min-h-11"
          disabled={start.isPending}
          onClick={() => (tonight ? void navigate(`/evenings/${tonight.id}`) : start.mutate(today(zone), { onSuccess: (made) => void navigate(`/evenings/${made.id}`) }))}
        >
          {tonight ? "Open tonight’s" : "Start tonight’s"}
        </button>
      </div>
      <Problem error={start.error} />
      {evenings.data.length === 0 ? (
        <Empty title="None yet">
          Start one and plan its sets, or{" "}
          <Link className="plain" to={`/students/${studentId}/bring`}>
            bring in a recording
          </Link>{" "}
          from the bag’s unit.
        </Empty>
      ) : (
        <ul className="mt-2 border-t border-line">
          {evenings.data.map((e) => (
            <li key={e.id} className="grid grid-cols-[6rem_minmax(0,1fr)] border-b sm:grid-cols-[8rem_minmax(0,1fr)] border-line">
              <Link className="plain flex min-h-12 items-center font-semibold" to={`/evenings/${e.id}`}>
                {day(e.day, "UTC")}
              </Link>
              <ul>
                {recordings.data
                  .filter((r) => r.session_id === e.id)
                  .map((r) => (
                    <li key={r.id}>
                      <Link className="flex min-h-12 items-center gap-4 hover:bg-shade" to={`/students/${studentId}/read?recording=${r.id}`}>
                        <span className="numeric w-16 text-soft">{clock(r.acquired_at, 0, zone).slice(0, 5)}</span>
                        <span className="flex-1 truncate max-sm:hidden">{r.task}</span>
                        <span className="numeric w-24 text-right max-sm:ml-auto">{r.strikes} strikes</span>
                        <span className="numeric w-16 text-right text-soft">{minutes(r.length_s)}</span>
                      </Link>
                    </li>
                  ))}
              </ul>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
