import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useParams } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useStudent } from "../api/queries";
import { longDay } from "../format";
import { useAddress } from "../ui/address";
import { useUnits } from "../ui/settings";
import { Failed, Loading, Problem } from "../ui/state";
import { say } from "../ui/toast";

const KINDS = [
  ["student", "For the student or a parent", "One page in plain words: what was done, how it goes, what was tried, what to work on next. None of your notes, no other name."],
  ["coach", "For the coach", "The same weeks with their doubts, sides, load, remarks and what was written down. It is printed, not handed out."],
  ["season", "The season", "A long stretch: the course, the load, month by month, what was tried and kept."],
] as const;

const SPANS = [
  [4, "the last 4 weeks"],
  [12, "the last 12 weeks"],
  [26, "half a year"],
  [52, "a year"],
] as const;

const DAYS = [7, 30, 90];

const read = (params: URLSearchParams) => ({
  kind: (["coach", "season"].includes(params.get("kind") ?? "") ? params.get("kind") : "student") as Schemas["HandOutIn"]["kind"],
  weeks: Number(params.get("weeks")) || (params.get("kind") === "season" ? 52 : 4),
  paper: (params.get("paper") === "Letter" ? "Letter" : "A4") as Schemas["HandOutIn"]["paper"],
});

/** What is printed or handed out of a student. */
export function ReportPage() {
  const studentId = Number(useParams().studentId);
  const [told, change] = useAddress(read);
  const [kind, setKind] = useState(told.kind); // a tap shows at once, the address follows
  useEffect(() => setKind(told.kind), [told.kind]);
  const view = { ...told, kind };
  const [units] = useUnits();
  const student = useStudent(studentId);
  if (student.error) return <Failed error={student.error} retry={() => void student.refetch()} />;
  if (!student.data) return <Loading what="the student" />;
  const about = KINDS.find(([kind]) => kind === view.kind)!;
  const asked = new URLSearchParams({ kind: view.kind, weeks: String(view.weeks), paper: view.paper, units });
  return (
    <div className="mx-auto max-w-4xl px-6 py-4">
      <h1 className="wide-title text-2xl sm:text-3xl">A report of {student.data.name}</h1>
      {student.data.stopped ? (
        <p role="alert" className="mt-4 border-l-4 border-buoy pl-3">
          {student.data.stopped}
        </p>
      ) : (
        <>
          <fieldset className="mt-4 grid gap-2">
            <legend className="sr-only">For whom</legend>
            {KINDS.map(([one, name, what]) => (
              <label key={one} className={`flex cursor-pointer gap-3 border-l-4 py-2 pl-3 ${one === kind ? "border-ink bg-shade" : "border-line"}`}>
                <input type="radio" name="kind" className="mt-0.5 size-5 shrink-0" checked={one === kind} onChange={() => {
                    setKind(one);
                    change({ kind: one === "student" ? "" : one, weeks: one === "season" ? 52 : "" });
                  }} />
                <span>
                  <b>{name}</b>
                  <span className="block text-soft">{what}</span>
                </span>
              </label>
            ))}
          </fieldset>
          <div className="mt-4 flex flex-wrap items-end gap-3">
            <label>
              <span className="mb-1 block font-semibold">Over</span>
              <select className="field min-h-11" value={view.weeks} onChange={(e) => change({ weeks: e.target.value })}>
                {SPANS.map(([weeks, name]) => (
                  <option key={weeks} value={weeks}>
                    {name}
                  </option>
                ))}
              </select>
            </label>
            <label>
              <span className="mb-1 block font-semibold">Paper</span>
              <select className="field min-h-11" value={view.paper} onChange={(e) => change({ paper: e.target.value === "A4" ? "" : e.target.value })}>
                <option>A4</option>
                <option>Letter</option>
              </select>
            </label>
            <a className="action-main inline-flex min-h-11 items-center" href={`/api/students/${studentId}/report.pdf?${asked}`} target="_blank" rel="noreferrer">
              Open as PDF
            </a>
            <span className="text-2xs text-soft">in {units === "si" ? "SI" : "US"} units; a second or two</span>
          </div>
          {view.kind === "coach" ? <p className="mt-6 text-soft">{about[1]}: it holds your own notes, so there is no link to it.</p> : <Links studentId={studentId} view={view} units={units} />}
        </>
      )}
    </div>
  );
}

function Links({ studentId, view, units }: { studentId: number; view: ReturnType<typeof read>; units: "si" | "us" }) {
  const queries = useQueryClient();
  const key = ["reports", studentId];
  const links = useQuery({ queryKey: key, queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/reports", { params: { path: { student_id: studentId } } })) });
  const settle = () => queries.invalidateQueries({ queryKey: key });
  const make = useMutation({
    mutationFn: async (days: number) => unwrap(await client.POST("/api/students/{student_id}/reports", { params: { path: { student_id: studentId } }, body: { ...view, units, days } })),
    onSettled: settle,
  });
  const withdraw = useMutation({
    mutationFn: async (id: number) => unwrap(await client.DELETE("/api/reports/{report_id}", { params: { path: { report_id: id } } })),
    onSuccess: () => say({ text: "The link is withdrawn: it opens nothing any more." }),
    onSettled: settle,
  });
  const copy = async (link: string) => {
    await navigator.clipboard.writeText(`${location.origin}${link}`);
    say({ text: "The address is copied." });
  };
  return (
    <section aria-label="Links" className="no-print mt-8 border-t border-line pt-3">
      <h2 className="wide-title text-lg">Hand it out by a link</h2>
      <p className="mt-1 text-soft">Who holds the link reads this report as it is now, without signing in, and nothing else. It opens until its last day, or until you withdraw it.</p>
      <div className="mt-2 flex flex-wrap items-center gap-3">
        {DAYS.map((days) => (
          <button key={days} className="action min-h-11" disabled={make.isPending} onClick={() => make.mutate(days)}>
            {days} days
          </button>
        ))}
        {make.isPending && (
          <span role="status" className="text-soft">
            Setting the page …
          </span>
        )}
      </div>
      <Problem error={make.error ?? links.error ?? withdraw.error} />
      <ul className="mt-3">
        {links.data?.map((r) => (
          <li key={r.id} className="flex flex-wrap items-center gap-x-4 border-t border-line py-1">
            <a className="plain inline-flex min-h-11 items-center" href={r.link} target="_blank" rel="noreferrer">
              {r.kind === "season" ? "The season" : "For the student"}, {r.about}
            </a>
            <span className="text-2xs text-soft">opens until {longDay(r.until)}</span>
            <button className="plain ml-auto min-h-11" onClick={() => void copy(r.link)}>
              Copy the address
            </button>
            <button className="plain min-h-11" aria-label={`Withdraw the link of ${r.about}`} disabled={withdraw.isPending} onClick={() => withdraw.mutate(r.id)}>
              Withdraw
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
