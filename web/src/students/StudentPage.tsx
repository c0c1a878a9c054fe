import { useMutation, useQueryClient } from "@tanstack/react-query";
import { scaleLinear, scaleTime } from "d3-scale";
import { useState, type ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useStudent, useZone } from "../api/queries";
import { useRemoval } from "../api/removal";
import { convert, digits, longDay, today, type System } from "../format";
import { Failed, Loading, Problem } from "../ui/state";
import { useUnits } from "../ui/settings";
import { roundTicks } from "../ui/ticks";
import { Quantity } from "../ui/Quantity";
import { say } from "../ui/toast";
import { Labelled } from "../ui/Form";
import { Evenings } from "./Evenings";
import { Radios } from "../ui/Radios";


export function StudentPage() {
  const id = Number(useParams().studentId);
  const student = useStudent(id);
  if (student.isPending) return <Loading what="the student" />;
  if (student.error) return <Failed error={student.error} retry={() => void student.refetch()} />;
  const s = student.data;
  return (
    <div className="mx-auto max-w-5xl p-6">
      <h1 className="wide-title text-3xl">{s.name}</h1>
      <p className="mt-1 text-soft">
        {s.age === null ? "Age not noted" : `${s.age} years`}
        {s.consent === "kept" && " · guardian’s consent kept"}
        {s.consent === "missing" && <span className="font-semibold text-buoy-ink"> · guardian’s consent missing</span>}
        {s.consent === "withdrawn" && <span className="font-semibold text-buoy-ink"> · guardian’s consent withdrawn</span>}
      </p>
      <p className="no-print flex gap-6">
        <Link className="plain inline-flex min-h-11 items-center" to={`/log?student=${id}`}>
          Day by day
        </Link>
        <Link className="plain inline-flex min-h-11 items-center" to={`/students/${id}/report`}>
          A report
        </Link>
      </p>
      {s.stopped && (
        <p role="alert" className="mt-2 max-w-2xl border-l-4 border-buoy pl-3">
          {s.stopped} Until then nothing is recorded, called or handed out.
        </p>
      )}
      {s.age === null && <BirthDate student={s} />}
      {s.counts_as_child && <Consent student={s} />}
      <div className="mt-6 grid grid-cols-[minmax(0,1fr)] gap-10 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <Evenings studentId={id} />
        <div className="space-y-8">
          <Stance student={s} />
          <BodyMass student={s} />
          <Leaving student={s} />
        </div>
      </div>
    </div>
  );
}

/** A change of the student that the server answers with the page as it is now. */
function useChange<What>(student: Schemas["StudentPage"], send: (what: What) => Promise<Schemas["StudentPage"]>, opens = false) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (next) => {
      queries.setQueryData(["students", student.id], next);
      // what opens or closes all that was measured is asked for anew everywhere
      void queries.invalidateQueries(opens ? {} : { queryKey: ["students"], exact: true });
    },
    // where somebody changed it meanwhile, the page shows what it is now
    onError: () => queries.invalidateQueries({ queryKey: ["students", student.id] }),
  });
}

function BirthDate({ student }: { student: Schemas["StudentPage"] }) {
  const [born, setBorn] = useState("");
  const note = useChange(student, async (birth_date: string) =>
    unwrap(await client.POST("/api/students/{student_id}/birth-date", { params: { path: { student_id: student.id } }, body: { birth_date, version: student.version } })),
    true,
  );
  return (
    <form
      className="mt-3 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        note.mutate(born);
      }}
    >
      <Labelled name="Date of birth">
        <input className="field" type="date" required value={born} onChange={(e) => setBorn(e.target.value)} />
      </Labelled>
      <button className="action" disabled={note.isPending}>
        Note
      </button>
      <Problem error={note.error} />
    </form>
  );
}

/** A guardian's consent is on paper at the gym; here it is noted that it is, or that it was withdrawn. */
function Consent({ student }: { student: Schemas["StudentPage"] }) {
  const note = useChange(student, async (consent: string) =>
    unwrap(await client.POST("/api/students/{student_id}/consent", { params: { path: { student_id: student.id } }, body: { consent, version: student.version } })),
    true,
  );
  const kept = student.consent === "kept";
  return (
    <p className="mt-2 flex flex-wrap items-center gap-3">
      {kept ? (
        <>
          <button className="action" disabled={note.isPending} onClick={() => note.mutate("withdrawn")}>
            The guardian withdrew it
          </button>
          <button className="plain py-1" disabled={note.isPending} onClick={() => note.mutate("missing")}>
            It is missing
          </button>
        </>
      ) : (
        <button className="action" disabled={note.isPending} onClick={() => note.mutate("kept")}>
          Note that it is kept here, signed
        </button>
      )}
      <Problem error={note.error} />
    </p>
  );
}

/** A student who leaves: out of sight, or erased for good. */
function Leaving({ student }: { student: Schemas["StudentPage"] }) {
  const navigate = useNavigate();
  const queries = useQueryClient();
  const gone = () => {
    sessionStorage.removeItem("student");
    void navigate("/students");
  };
  const { remove, busy } = useRemoval(gone);
  const left = useChange(student, async (leaves: boolean) => {
    const note = async (now: boolean, version: number) =>
      unwrap(await client.POST("/api/students/{student_id}/left", { params: { path: { student_id: student.id } }, body: { left: now, version } }));
    const next = await note(leaves, student.version);
    if (leaves)
      say({
        text: `${student.name} is out of the evening's lists.`,
        back: () => void note(false, next.version).then((again) => queries.setQueryData(["students", student.id], again)).then(() => queries.invalidateQueries({ queryKey: ["students"], exact: true })),
      });
    return next;
  });
  return (
    <section>
      <h2 className="wide-title text-lg">Leaving</h2>
      {student.left_on ? (
        <p className="mt-2 flex flex-wrap items-center gap-3">
          <span>Trains here no more since {longDay(student.left_on)}.</span>
          <button className="action" disabled={left.isPending} onClick={() => left.mutate(false)}>
            Trains here again
          </button>
        </p>
      ) : (
        <>
          <button className="action mt-2" disabled={left.isPending} onClick={() => left.mutate(true)}>
            Trains here no more
          </button>
          <p className="mt-1 mb-3 text-soft">Out of the lists of an evening; all that was measured stays to be read.</p>
        </>
      )}
      <Problem error={left.error} />
      <button className="action mt-2" disabled={busy} onClick={() => remove("student", student.id)}>
        Remove {student.name.split(" ")[0]}
      </button>
      <p className="mt-1 text-soft">Out of sight with all recordings; it can be taken back.</p>
      <ForGood student={student} deed="nameless" what="Keep figures, not the person" gone={gone}>
        The name, birthday, notes, plans, samples and drawn curves go; strikes, evenings and what trials found stay, as a former student’s. Nothing brings the person back.
      </ForGood>
      <ForGood student={student} deed="erase" what="Erase for good" gone={gone}>
        Every recording, strike, note and claim of this person goes, with the samples. Nothing brings them back. Backups lose them as new ones take their place, one a night for two weeks.
      </ForGood>
    </section>
  );
}

const DEEDS = {
  erase: { path: "/api/students/{student_id}/erase", does: "Erase", said: "was erased, with every sample." },
  nameless: { path: "/api/students/{student_id}/nameless", does: "Make nameless:", said: "is a former student without a name now." },
} as const;

/** What can't be taken back: the name is typed, so that no slip of a finger does it. */
function ForGood({ student, deed, what, gone, children }: { student: Schemas["StudentPage"]; deed: keyof typeof DEEDS; what: string; gone: () => void; children: ReactNode }) {
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const { path, does, said } = DEEDS[deed];
  const act = useMutation({
    mutationFn: async () => {
      const answer = await client.POST(path, { params: { path: { student_id: student.id } }, body: { name } });
      if (!answer.response.ok) unwrap(answer);
    },
    onSuccess: async () => {
      gone();
      say({ text: `${student.name} ${said}` });
      await queries.invalidateQueries();
    },
  });
  return (
    <details className="mt-2">
      <summary className="cursor-pointer py-2 text-soft">{what}</summary>
      <form
        className="mt-1 space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          act.mutate();
        }}
      >
        <p>{children}</p>
        <label className="block">
          <span className="mb-1 block">Type the name to be sure</span>
          <input className="field w-full" required value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <button className="action min-h-11" disabled={act.isPending || name !== student.name}>
          {does} {student.name}
        </button>
        <Problem error={act.error} />
      </form>
    </details>
  );
}

function Stance({ student }: { student: Schemas["StudentPage"] }) {
  const change = useChange(student, async (stance: string) =>
    unwrap(await client.POST("/api/students/{student_id}/stance", { params: { path: { student_id: student.id } }, body: { stance, version: student.version } })),
  );
  return (
    <section>
      <h2 className="wide-title text-lg">Stance</h2>
      <Radios name="Stance" values={["orthodox", "southpaw"]} chosen={student.stance} choose={(stance) => change.mutate(stance)} tell={(stance) => stance} className="mt-2 flex gap-2" />
      <ul className="mt-2 text-soft">
        {student.stances.map((s) => (
          <li key={s.since}>
            {s.stance} since {longDay(s.since)}: {s.stance === "southpaw" ? "right" : "left"} side leads
          </li>
        ))}
      </ul>
      <Problem error={change.error} />
    </section>
  );
}

function BodyMass({ student }: { student: Schemas["StudentPage"] }) {
  const [units] = useUnits();
  const zone = useZone();
  const [on, setOn] = useState(() => today(zone));
  const [kg, setKg] = useState<number | null>(null);
  const [sent, setSent] = useState(0); //: each time the field begins anew
  const add = useChange(student, async () => {
    const there = student.masses.find((m) => m.measured_on === on);
    const body = { measured_on: on, mass_kg: kg ?? 0, was_kg: there?.mass_kg ?? null };
    const next = unwrap(await client.POST("/api/students/{student_id}/masses", { params: { path: { student_id: student.id } }, body }));
    setKg(null);
    setSent((n) => n + 1);
    return next;
  });
  const last = student.masses.at(-1);
  const shown = last && convert(last.mass_kg, "kg", 1, units);
  return (
    <section>
      <h2 className="wide-title text-lg">Body mass</h2>
      {shown && last ? (
        <p>
          <span className="figure text-3xl">{digits(shown[0], shown[2])}</span> {shown[1]}
          <span className="text-soft"> on {longDay(last.measured_on)}</span>
        </p>
      ) : (
        <p className="text-soft">Not weighed yet.</p>
      )}
      {student.masses.length > 1 && <MassLine masses={student.masses} units={units} />}
      <form
        className="mt-3 flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          add.mutate(undefined);
        }}
      >
        <label>
          <span className="mb-1 block font-semibold">Day</span>
          <input className="field" type="date" required value={on} onChange={(e) => setOn(e.target.value)} />
        </label>
        <Quantity key={sent} name="Mass" unit="kg" decimals={1} required wide="w-24" value={kg} onChange={setKg} />
        <button className="action" disabled={add.isPending}>
          Note
        </button>
      </form>
      <div className="mt-2">
        <Problem error={add.error} />
      </div>
    </section>
  );
}

function MassLine({ masses, units }: { masses: Schemas["MassOut"][]; units: System }) {
  const width = 350;
  const height = 90;
  const values = masses.map((m) => m.mass_kg);
  const low = Math.min(...values) - 0.5;
  const high = Math.max(...values) + 0.5;
  const x = scaleTime([new Date(masses[0]!.measured_on), new Date(masses.at(-1)!.measured_on)], [46, width - 6]);
  const y = scaleLinear([low, high], [height - 6, 6]);
  const said = (kg: number): [number, number] => [convert(kg, "kg", 1, units)[0], 1];
  const points = masses.map((m) => `${x(new Date(m.measured_on))},${y(m.mass_kg)}`).join(" ");
  return (
    <svg viewBox={`0 0 ${width} ${height}`} className="mt-2 w-full max-w-md" role="img" aria-label={`Body mass from ${digits(...said(values[0]!))} to ${digits(...said(values.at(-1)!))} ${units === "us" ? "pounds" : "kilograms"}`}>
      {roundTicks(y, 3, "kg", units).map(({ at, text }) => (
        <g key={at}>
          <line x1={40} x2={width} y1={y(at)} y2={y(at)} stroke="var(--line)" />
          <text x={34} y={y(at) + 4} fontSize={12} textAnchor="end" fill="var(--soft)">
            {text}
          </text>
        </g>
      ))}
      <polyline points={points} fill="none" stroke="var(--ink)" strokeWidth={1.5} />
      {masses.map((m) => (
        <circle key={m.measured_on} cx={x(new Date(m.measured_on))} cy={y(m.mass_kg)} r={3} fill="var(--ink)" />
      ))}
    </svg>
  );
}
