import { useState } from "react";
import type { Schemas } from "../api/client";
import { useEveningNotes } from "../api/evening";
import { Form, Labelled } from "../ui/Form";

/** What the evening was like: gear, soreness, notes; read, and changed where somebody wants to. */
export function Noted({ evening }: { evening: Schemas["EveningPage"] }) {
  const [writing, setWriting] = useState(false);
  if (writing) return <Write evening={evening} close={() => setWriting(false)} />;
  const told: [string, string][] = [
    ["Gear", evening.gear],
    ["Sore", evening.soreness],
    ["Notes", evening.notes],
  ];
  return (
    <section aria-label="What it was like">
      <div className="flex items-baseline justify-between">
        <h2 className="wide-title text-lg">What it was like</h2>
        <button className="plain no-print min-h-11" onClick={() => setWriting(true)}>
          Write
        </button>
      </div>
      <dl className="grid grid-cols-[6rem_1fr] gap-y-1">
        {told.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="whitespace-pre-line">{value || <span className="text-soft">not noted</span>}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Write({ evening, close }: { evening: Schemas["EveningPage"]; close: () => void }) {
  const [gear, setGear] = useState(evening.gear);
  const [soreness, setSoreness] = useState(evening.soreness);
  const [notes, setNotes] = useState(evening.notes);
  const save = useEveningNotes(evening.id);
  return (
    <Form
      submit="Save"
      busy={save.isPending}
      error={save.error}
      save={() => save.mutate({ gear, soreness, notes, version: evening.version }, { onSuccess: close })}
      close={close}
      className="space-y-2"
    >
      <h2 className="wide-title text-lg">What it was like</h2>
      <Labelled name="Gear" className="block">
        <input className="field w-full" autoFocus maxLength={80} placeholder="gloves 12 oz, wraps" value={gear} onChange={(e) => setGear(e.target.value)} />
      </Labelled>
      <Labelled name="Sore where" className="block">
        <input className="field w-full" maxLength={300} placeholder="right shoulder, since Sunday" value={soreness} onChange={(e) => setSoreness(e.target.value)} />
      </Labelled>
      <Labelled name="Notes" className="block">
        <textarea className="field w-full resize-y" rows={4} maxLength={4000} value={notes} onChange={(e) => setNotes(e.target.value)} />
      </Labelled>
    </Form>
  );
}
