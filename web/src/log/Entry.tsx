import { useState, type Ref } from "react";
import type { Schemas } from "../api/client";
import { useZone } from "../api/queries";
import { today } from "../format";
import { Problem } from "../ui/state";
import { usePain, useWrite } from "./log";

interface Props {
  ref: Ref<HTMLInputElement>;
  student: number | null;
  students: Schemas["StudentOut"][];
}

/** A line is typed and entered: a note, or that something hurts. */
export function Entry({ ref, student, students }: Props) {
  const zone = useZone();
  const write = useWrite();
  const pain = usePain();
  const [text, setText] = useState("");
  const [hurts, setHurts] = useState(false);
  const [day, setDay] = useState(() => today(zone));
  const [chosen, setChosen] = useState<number | null>(student);
  const who = student ?? chosen;
  const done = { onSuccess: () => setText("") };
  const save = () => {
    if (hurts && who !== null) pain.mutate({ student: who, since: day, text }, done);
    else write.mutate({ student: who, day, text }, done);
  };
  return (
    <form
      aria-label="Write a line"
      className="no-print mt-4 border-y border-line py-3"
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <input ref={ref} className="field min-h-11 min-w-60 flex-1" aria-label={hurts ? "Where it hurts" : "Note"} placeholder={hurts ? "Where it hurts, as left wrist" : "What is worth knowing later"} required maxLength={hurts ? 200 : 4000} value={text} onChange={(e) => setText(e.target.value)} />
        {student === null && (
          <select className="field min-h-11" aria-label="Of whom" required={hurts} value={chosen ?? ""} onChange={(e) => setChosen(e.target.value ? Number(e.target.value) : null)}>
            <option value="">{hurts ? "Whose is it?" : "The whole gym"}</option>
            {students.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        )}
        <input type="date" className="field min-h-11" aria-label="Day" required max={today(zone)} value={day} onChange={(e) => setDay(e.target.value)} />
        <label className="flex min-h-11 items-center gap-2 px-1">
          <input type="checkbox" className="size-5" checked={hurts} onChange={(e) => setHurts(e.target.checked)} />
          It hurts
        </label>
        <button className="action-main min-h-11" disabled={write.isPending || pain.isPending}>
          Write down
        </button>
      </div>
      {hurts && <p className="mt-1 text-2xs text-soft">Stop, and see a professional if it stays. Nothing is planned for that limb until it is cleared.</p>}
      <Problem error={write.error ?? pain.error} />
    </form>
  );
}
