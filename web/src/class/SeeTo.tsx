import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { Problem } from "../ui/state";

type Notice = Schemas["NoticeOut"];

const WHAT: Record<string, string> = {
  consent: "Consent",
  volume: "Volume",
  sides: "One side",
  retest: "Go on with",
  battery: "Battery",
  calibration: "Calibrate",
  away: "Away",
};

const FIRST = 6;

/** Each one click from where it is seen to. */
function place(n: Notice): string {
  if (n.kind === "battery" || n.kind === "calibration") return "/kit";
  if (n.kind === "retest") return `/trials/${n.trial_id}/sheet?student=${n.student_id}`;
  if (n.kind === "consent") return `/students/${n.student_id}`;
  return n.kind === "away" ? `/students/${n.student_id}/prepare` : `/students/${n.student_id}/weeks`;
}

/** What to see to before the next evening, the weightiest first. */
export function SeeTo() {
  const [all, setAll] = useState(false);
  const told = useQuery({ queryKey: ["attention"], queryFn: async () => unwrap(await client.GET("/api/attention")) });
  if (told.error) return <Problem error={told.error} />;
  if (!told.data || told.data.length === 0) return null;
  const shown = all ? told.data : told.data.slice(0, FIRST);
  return (
    <section aria-label="To see to" className="mt-3 border-l-4 border-oar pl-3">
      <h2 className="wide-title text-base">To see to</h2>
      <ul>
        {shown.map((n) => (
          <li key={`${n.kind} ${n.who} ${n.text}`} className="flex flex-wrap items-baseline gap-x-3">
            <span className="w-24 shrink-0 text-soft">{WHAT[n.kind] ?? n.kind}</span>
            <span className="min-w-0 flex-1 basis-72">
              <Link className="plain py-1 font-semibold" to={place(n)}>
                {n.who}
              </Link>
              : {n.text}
            </span>
          </li>
        ))}
      </ul>
      {told.data.length > FIRST && (
        <button className="plain no-print min-h-11" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "Only the first" : `${told.data.length - FIRST} more`}
        </button>
      )}
    </section>
  );
}
