import { useQuery } from "@tanstack/react-query";
import { useState, type DragEvent } from "react";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useZone } from "../api/queries";
import { shiftedDay, shortDay, today } from "../format";
import { useAddress } from "../ui/address";
import { Failed, Loading } from "../ui/state";
import { DAYS, usePutOnBoard } from "./week";

const read = (params: URLSearchParams) => ({ week: params.get("week") });

/** Everybody's week on one board; each row opens to the student's own. */
export function ClassBoard() {
  const [{ week }, change] = useAddress(read);
  const zone = useZone();
  const put = usePutOnBoard();
  const [over, setOver] = useState<string | null>(null);
  const board = useQuery({ queryKey: ["plan", "class", week], queryFn: async () => unwrap(await client.GET("/api/plan/class", { params: { query: { monday: week } } })) });
  if (board.error) return <Failed error={board.error} retry={() => void board.refetch()} />;
  if (!board.data) return <Loading what="the board" />;
  const { monday, rows } = board.data;
  const days = DAYS.map((_, k) => shiftedDay(monday, k));
  const dropped = (e: DragEvent, row: Schemas["BoardRow"], day: number) => {
    e.preventDefault();
    setOver(null);
    const part = row.parts.find((p) => p.id === Number(e.dataTransfer.getData("text/plain")));
    const copy = e.ctrlKey || e.altKey; // a part stays with its student: another one's week is made of other wishes
    if (part && (copy || part.day !== day)) put.mutate({ id: part.id, day, version: row.version, copy });
  };
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
      {planned > 0 && <p className="no-print text-2xs text-soft">Drag a part to another evening, or press ← → on it; with Ctrl it is there once more.</p>}
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
                  <td
                    key={on}
                    className={`py-1.5 pr-2 text-2xs ${over === `${r.student_id} ${k}` ? "outline-3 -outline-offset-3 outline-oar" : ""}`}
                    onDragOver={(e) => {
                      e.preventDefault();
                      setOver(`${r.student_id} ${k}`);
                    }}
                    onDragLeave={() => setOver(null)}
                    onDrop={(e) => dropped(e, r, k)}
                  >
                    <Day parts={r.parts.filter((p) => p.day === k)} busy={put.isPending || board.isFetching} to={(id, by, copy) => k + by >= 0 && k + by < 7 && put.mutate({ id, day: k + by, version: r.version, copy })} />
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

interface DayProps {
  parts: Schemas["BoardPart"][];
  busy: boolean;
  to: (id: number, by: number, copy: boolean) => void;
}

/** Parts of one evening: dragged, or sent a day on or back by the arrow keys, with Ctrl once more. */
function Day({ parts, busy, to }: DayProps) {
  return (
    <ul>
      {parts.map((p) => (
        <li key={p.id} className={p.rests ? "text-soft line-through" : ""}>
          <button
            className="w-full cursor-grab py-1 text-left"
            draggable
            aria-disabled={busy}
            aria-keyshortcuts="ArrowLeft ArrowRight Control+ArrowLeft Control+ArrowRight"
            onDragStart={(e) => e.dataTransfer.setData("text/plain", String(p.id))}
            onKeyDown={(e) => {
              const by = { ArrowLeft: -1, ArrowRight: 1 }[e.key];
              if (by === undefined || busy) return;
              e.preventDefault();
              to(p.id, by, e.ctrlKey);
            }}
          >
            {p.name}
            {p.strikes > 0 && ` ${p.strikes}`}
            {p.rests && <span className="sr-only"> rests</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}
