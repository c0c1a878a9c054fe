import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useCrossOver } from "../api/gym";
import { useMe, useZone, useStudents } from "../api/queries";
import { convert, day, digits } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Quantity } from "../ui/Quantity";
import { Failed, Loading, Problem } from "../ui/state";
import { useUnits } from "../ui/settings";
import { FirstHour } from "./FirstHour";

export function StudentsPage() {
  const students = useStudents();
  const me = useMe();
  const cross = useCrossOver();
  const demo = me.data?.me?.demo ?? false;
  const [adding, setAdding] = useState(false);
  if (students.isPending) return <Loading what="the students" />;
  if (students.error) return <Failed error={students.error} retry={() => void students.refetch()} />;
  const here = students.data.filter((s) => !s.left_on);
  const left = students.data.filter((s) => s.left_on);
  const firstHour = !demo && !students.data.some((s) => s.recordings > 0);
  return (
    <div className="mx-auto max-w-5xl p-6">
      <div className="flex items-center justify-between">
        <h1 className="wide-title text-2xl">Students</h1>
        <button className="action" aria-expanded={adding} onClick={() => setAdding(!adding)}>
          Add a student
        </button>
      </div>
      {adding && <AddStudent close={() => setAdding(false)} stay={firstHour} />}
      {firstHour && <FirstHour addStudent={() => setAdding(true)} />}
      {here.length > 0 && <StudentTable students={here} />}
      {left.length > 0 && (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer py-2">Train here no more: {left.length}</summary>
          <StudentTable students={left} />
        </details>
      )}
      {demo && (
        <p className="no-print mt-6 flex flex-wrap items-center gap-4 border-l-4 border-oar pl-3">
          <span className="max-w-xl">This is the demo gym, all of it made up. It stays as it is while you begin with your own.</span>
          <button className="action min-h-11" disabled={cross.isPending} onClick={() => cross.mutate()}>
            {me.data?.me?.other ? "To my own gym" : "Begin with an empty gym"}
          </button>
          <Problem error={cross.error} />
        </p>
      )}
      <p className="no-print mt-6">
        <Link className="plain py-2" to="/removed">
          What was removed
        </Link>
      </p>
    </div>
  );
}

const CONSENT: Record<string, string> = { kept: "guardian agreed", missing: "guardian's consent missing", withdrawn: "guardian's consent withdrawn", not_needed: "" };

function StudentTable({ students }: { students: Schemas["StudentOut"][] }) {
  const [units] = useUnits();
  const zone = useZone();
  return (
    <table className="mt-5 w-full border-collapse text-left">
      <thead className="text-soft max-sm:sr-only">
        <tr className="border-b border-line [&>th]:py-2 [&>th]:pr-4 [&>th]:font-semibold">
          <th>Name</th>
          <th>Stance</th>
          <th className="text-right">Age</th>
          <th className="text-right">Body mass</th>
          <th className="text-right">Recordings</th>
          <th>Last here</th>
          <th>
            <span className="sr-only">Open</span>
          </th>
        </tr>
      </thead>
      <tbody>
        {students.map((s) => {
          const mass = s.mass_kg === null ? null : convert(s.mass_kg, "kg", 1, units);
          return (
            <tr key={s.id} className="border-b border-line hover:bg-shade max-sm:grid max-sm:grid-cols-[1fr_auto] max-sm:py-2 [&>td]:py-3 [&>td]:pr-4 max-sm:[&>td]:py-0.5 max-sm:[&>td]:pr-0 max-sm:[&>td]:text-left">
              <td>
                <Link className="text-base font-semibold hover:underline" to={`/students/${s.id}`}>
                  {s.name}
                </Link>
                {CONSENT[s.consent] && <span className="ml-2 border-l-4 border-buoy pl-1.5 text-2xs">{CONSENT[s.consent]}</span>}
              </td>
              <td className="max-sm:order-1">{s.stance}</td>
              <td className="numeric text-right max-sm:hidden">{s.age ?? "not noted"}</td>
              <td className="numeric text-right max-sm:order-1">{mass ? `${digits(mass[0], mass[2])} ${mass[1]}` : "not weighed"}</td>
              <td className="numeric text-right max-sm:hidden">{s.recordings}</td>
              <td className="max-sm:order-2">{s.last_recording ? day(s.last_recording, zone) : "no recording yet"}</td>
              <td className="text-right">
                <Link className="plain font-semibold" to={`/students/${s.id}/${s.recordings ? "read" : "measure"}`}>
                  {s.recordings ? "Read" : "Measure"}
                </Link>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function AddStudent({ close, stay }: { close: () => void; stay: boolean }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [stance, setStance] = useState("orthodox");
  const [born, setBorn] = useState("");
  const [mass, setMass] = useState<number | null>(null);
  const add = useMutation({
    mutationFn: async () =>
      unwrap(
        await client.POST("/api/students", {
          body: { name, stance, birth_date: born || null, mass_kg: mass },
        }),
      ),
    onSuccess: async (student) => {
      await queries.invalidateQueries({ queryKey: ["students"] });
      close();
      if (!stay) await navigate(`/students/${student.id}`);
    },
  });
  return (
    <Form submit="Add" busy={add.isPending} error={add.error} save={() => add.mutate()} close={close} className="mt-4 border-y border-line py-4">
      <div className="grid grid-cols-2 items-end gap-3 sm:grid-cols-5">
      <Labelled name="Name" className="col-span-2">
        <input className="field w-full" required autoFocus maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />
      </Labelled>
      <Labelled name="Stance">
        <select className="field w-full" value={stance} onChange={(e) => setStance(e.target.value)}>
          <option value="orthodox">orthodox (left leads)</option>
          <option value="southpaw">southpaw (right leads)</option>
        </select>
      </Labelled>
      <Labelled name="Born on">
        <input className="field w-full" type="date" value={born} onChange={(e) => setBorn(e.target.value)} />
      </Labelled>
      <Quantity name="Body mass" unit="kg" decimals={1} value={mass} onChange={setMass} />
      </div>
    </Form>
  );
}
