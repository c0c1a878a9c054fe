import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useZone } from "../api/queries";
import { shiftedDay, shortDay, today } from "../format";
import { useAddress } from "../ui/address";
import { Failed, Loading } from "../ui/state";
import { DAYS } from "./week";

const read = (params: URLSearchParams) => ({ week: params.get("week") });

/** Everybody's week on one board; each row opens to the student's own. */
export function ClassBoard() {
  const [{ week }, change] = useAddress(read);
  const zone = useZone();
  const board = useQuery({ queryKey: ["plan", "class", week], queryFn: async () => unwrap(await client.GET("/api/plan/class", { params: { query: { monday: week } } })) });
  if (board.error) return <Failed error={board.error} retry={() => void board.refetch()} />;
  if (!board.data) return <Loading what="the board" />;
  const { monday, rows } = board.data;
  const days = DAYS.map((_, k) => shiftedDay(monday, k));
  const planned = rows.filter((r) => r.planned).length;
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <h1 className="wide-title text-2xl sm:text-3xl">{planned === 0 ? "Nobody’s week is planned yet." : `${planned} of ${rows.length} have a week planned.`}</h1>
      <div className="mt-1 flex flex-wrap items-center gap-x-4">
        <button className="plain no-print min-h-11" onClick={() => change({ week: shiftedDay(monday, -7) })}>
          ← The week before
        </button>
        <span>The class, week of {shortDay(monday)}</span>
        <button className="plain no-print min-h-11" onClick={() => change({ week: shiftedDay(monday, 7) })}>
          The next one →
        </button>
        <button className="plain no-print ml-auto min-h-11" onClick={() => window.print()}>
          Print
        </button>
      </div>
      <div className="mt-3 overflow-x-auto">
        <table className="w-full min-w-[56rem] table-fixed">
          <thead>
            <tr className="border-b-2 border-ink text-left">
              <th className="w-40 py-1 pr-2 font-semibold">Student</th>
              {days.map((on, k) => (
                <th key={on} scope="col" className={`py-1 pr-2 font-semibold ${on === today(zone) ? "text-oar" : ""}`}>
                  {DAYS[k]!.slice(0, 3)} {shortDay(on)}
                </th>
              ))}
              <th className="w-16 py-1 text-right font-semibold">Strikes</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.student_id} className="border-b border-line align-top">
                <th scope="row" className="py-1.5 pr-2 text-left font-normal">
                  <Link className="plain inline-flex min-h-9 items-center font-semibold" to={`/students/${r.student_id}/plan?week=${monday}`}>
                    {r.student}
                  </Link>
                </th>
                {days.map((on, k) => (
                  <td key={on} className="py-1.5 pr-2 text-2xs">
                    <Day parts={r.parts.filter((p) => p.day === k)} />
                  </td>
                ))}
                <td className="numeric py-1.5 text-right">{r.planned ? r.strikes : ""}</td>
              </tr>
            ))}
            <tr>
              <th scope="row" className="py-1.5 pr-2 text-left font-normal text-soft">
                Here that evening
              </th>
              {days.map((on, k) => (
                <td key={on} className="numeric py-1.5 text-soft">
                  {rows.filter((r) => r.parts.some((p) => p.day === k)).length || ""}
                </td>
              ))}
              <td />
            </tr>
          </tbody>
        </table>
      </div>
    </div>
  );
}

function Day({ parts }: { parts: Schemas["BoardPart"][] }) {
  return (
    <ul>
      {parts.map((p, k) => (
        <li key={k} className={p.rests ? "text-soft line-through" : ""}>
          {p.name}
          {p.strikes > 0 && ` ${p.strikes}`}
          {p.rests && <span className="sr-only"> rests</span>}
        </li>
      ))}
    </ul>
  );
}
