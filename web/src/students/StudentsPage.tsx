import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useZone, useStudents } from "../api/queries";
import { convert, day, digits } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";

export function StudentsPage() {
  const students = useStudents();
  const [adding, setAdding] = useState(false);
  if (students.isPending) return <Loading what="the students" />;
  if (students.error) return <Failed error={students.error} retry={() => void students.refetch()} />;
  return (
    <div className="mx-auto max-w-5xl p-6">
      <div className="flex items-center justify-between">
        <h1 className="wide-title text-2xl">Students</h1>
        <button className="action" aria-expanded={adding} onClick={() => setAdding(!adding)}>
          Add a student
        </button>
      </div>
      {adding && <AddStudent close={() => setAdding(false)} />}
      {students.data.length ? (
        <StudentTable students={students.data} />
      ) : (
        <Empty title="Nobody here yet">Add a student, then bring in their first recording.</Empty>
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
      <thead className="text-soft">
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
            <tr key={s.id} className="border-b border-line hover:bg-shade [&>td]:py-3 [&>td]:pr-4">
              <td>
                <Link className="text-base font-semibold hover:underline" to={`/students/${s.id}`}>
                  {s.name}
                </Link>
                {CONSENT[s.consent] && <span className="ml-2 border-l-4 border-buoy pl-1.5 text-2xs">{CONSENT[s.consent]}</span>}
              </td>
              <td>{s.stance}</td>
              <td className="numeric text-right">{s.age ?? "not noted"}</td>
              <td className="numeric text-right">{mass ? `${digits(mass[0], mass[2])} ${mass[1]}` : "not weighed"}</td>
              <td className="numeric text-right">{s.recordings}</td>
              <td>{s.last_recording ? day(s.last_recording, zone) : "no recording yet"}</td>
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

function AddStudent({ close }: { close: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [stance, setStance] = useState("orthodox");
  const [born, setBorn] = useState("");
  const [mass, setMass] = useState("");
  const add = useMutation({
    mutationFn: async () =>
      unwrap(
        await client.POST("/api/students", {
          body: { name, stance, birth_date: born || null, mass_kg: mass ? Number(mass) : null },
        }),
      ),
    onSuccess: async (student) => {
      await queries.invalidateQueries({ queryKey: ["students"] });
      close();
      await navigate(`/students/${student.id}`);
    },
  });
  return (
    <Form submit="Add" busy={add.isPending} error={add.error} save={() => add.mutate()} close={close} className="mt-4 border-y border-line py-4">
      <div className="grid grid-cols-5 items-end gap-3">
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
      <Labelled name="Body mass, kg">
        <input className="field w-full" type="number" step="0.1" value={mass} onChange={(e) => setMass(e.target.value)} />
      </Labelled>
      </div>
    </Form>
  );
}
