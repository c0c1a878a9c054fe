import { useState } from "react";
import type { Schemas } from "../api/client";
import { useZone } from "../api/queries";
import { useMarks } from "../api/trials";
import { shortDay, today } from "../format";
import { Form } from "../ui/Form";
import { Problem } from "../ui/state";

/** Mark an injury, a break or something other in the weeks; marks of one's own can be taken off. */
export function MarkForm({ studentId, marks }: { studentId: number; marks: Schemas["MarkOut"][] }) {
  const { add, remove } = useMarks(studentId);
  const [open, setOpen] = useState(false);
  const [kind, setKind] = useState("injury");
  const zone = useZone();
  const [since, setSince] = useState(() => today(zone));
  const [until, setUntil] = useState("");
  const [text, setText] = useState("");
  const own = marks.filter((m) => m.id !== null);
  return (
    <section aria-label="Marks" className="no-print border-t border-line pt-2">
      {own.map((m) => (
        <p key={m.id} className="flex items-center justify-between text-2xs text-soft">
          {m.kind}, {shortDay(String(m.on))}
          <button className="plain py-1" onClick={() => remove.mutate(m.id!)}>
            Take off
          </button>
        </p>
      ))}
      {open ? (
        <Form
          submit="Mark"
          busy={add.isPending}
          error={null}
          className=""
          close={() => setOpen(false)}
          save={() =>
            add.mutate(
              { kind, since, until: until || null, text },
              {
                onSuccess: () => {
                  setOpen(false);
                  setText("");
                },
              },
            )
          }
        >
          <div className="grid grid-cols-2 gap-2">
          <select className="field col-span-2" aria-label="Kind" value={kind} onChange={(e) => setKind(e.target.value)}>
            <option value="injury">Injury</option>
            <option value="break">Break</option>
            <option value="other">Something other</option>
          </select>
          <label className="text-2xs text-soft">
            From
            <input className="field w-full text-ink" type="date" required value={since} onChange={(e) => setSince(e.target.value)} />
          </label>
          <label className="text-2xs text-soft">
            Until
            <input className="field w-full text-ink" type="date" value={until} onChange={(e) => setUntil(e.target.value)} />
          </label>
          <input className="field col-span-2" aria-label="What happened" placeholder="What happened" required maxLength={200} value={text} onChange={(e) => setText(e.target.value)} />
          </div>
        </Form>
      ) : (
        <button className="plain py-2" onClick={() => setOpen(true)}>
          Mark an injury or a break
        </button>
      )}
      <Problem error={add.error ?? remove.error} />
    </section>
  );
}
