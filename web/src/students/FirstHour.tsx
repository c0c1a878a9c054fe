import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { client, unwrap } from "../api/client";
import { useBags, useStudents } from "../api/queries";
import { useTrials } from "../api/trials";

interface Step {
  name: string;
  about: string;
  done: boolean;
  to: string;
  act: string;
}

/** The first hour of a gym: what comes next, one step at a time, until there is a figure and a question. */
export function FirstHour({ addStudent }: { addStudent: () => void }) {
  const students = useStudents().data ?? [];
  const bags = useBags().data ?? [];
  const trials = useTrials().data ?? [];
  const stations = useQuery({ queryKey: ["stations"], queryFn: async () => unwrap(await client.GET("/api/stations")) });
  const first = students[0];
  const measured = students.find((s) => s.recordings > 0);
  const who = measured ?? first;
  const steps: Step[] = [
    { name: "Add a student", about: "A name and a stance will do; body mass when there is a scale.", done: students.length > 0, to: "", act: "Add a student" },
    { name: "Weigh and measure the bag", about: "Force is only as sure as the bag's mass.", done: bags.length > 0, to: "/kit", act: "Tell of the bag" },
    { name: "Hang the unit", about: "Outside of the bag, out of reach of fists; the picture shows where.", done: !!stations.data?.some((s) => s.units.length > 0) || !!measured, to: "/kit/guide", act: "See where" },
    { name: "Three hits, and see a figure", about: "Begin at the bag with a hub, or bring in what a logger recorded.", done: !!measured, to: who ? `/students/${who.id}/bring` : "", act: "Bring in a recording" },
    { name: "Ask one question", about: "Change one thing, throw it in turns with the old way, read the answer.", done: trials.length > 0, to: who ? `/trials/new?student=${who.id}` : "", act: "Plan a trial" },
  ];
  const next = steps.findIndex((s) => !s.done);
  if (next < 0) return null;
  return (
    <section aria-label="The first hour" className="mt-5 border-y border-line py-4">
      <h2 className="wide-title text-xl">The first hour</h2>
      <ol className="mt-2">
        {steps.map((s, k) => (
          <li key={s.name} className={`grid grid-cols-[2rem_1fr_auto] items-center gap-x-2 py-1.5 ${s.done ? "text-soft" : ""}`}>
            <span className="figure text-lg">
              {s.done ? "✓" : k + 1}
              {s.done && <span className="sr-only">done</span>}
            </span>
            <span>
              <b>{s.name}</b> {k === next && <span className="block text-soft">{s.about}</span>}
            </span>
            {!s.done &&
              (s.to ? (
                <Link className={`${k === next ? "action-main" : "action"} inline-flex min-h-11 items-center`} to={s.to}>
                  {s.act}
                </Link>
              ) : (
                <button className={`${k === next ? "action-main" : "action"} min-h-11`} disabled={k > 0} onClick={addStudent}>
                  {s.act}
                </button>
              ))}
          </li>
        ))}
      </ol>
    </section>
  );
}
