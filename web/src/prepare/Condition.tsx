import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useZone } from "../api/queries";
import { convert, digits, today } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Quantity } from "../ui/Quantity";
import { useUnits } from "../ui/settings";

const GEAR = ["wraps", "gloves 10 oz", "gloves 12 oz", "gloves 16 oz", "shin guards", "street clothes and shoes"];

/** What a student brings along tonight: gear, what is sore, body mass; noted here, before the first strike. */
export function Condition({ row, evening }: { row: Schemas["Tonight"]; evening: Schemas["EveningPage"] | undefined }) {
  const [units] = useUnits();
  const [writing, setWriting] = useState(false);
  const mass = row.mass_kg === null ? null : convert(row.mass_kg, "kg", 1, units);
  const told = [row.gear, row.soreness && `sore: ${row.soreness}`, mass && `${digits(mass[0], mass[2])} ${mass[1]}`].filter(Boolean).join(" · ");
  const due = row.mass_kg === null ? "Body mass is not noted." : row.mass_due_days !== null ? `Body mass is ${Math.round(row.mass_due_days / 7)} weeks old.` : "";
  if (writing && evening) return <Write row={row} evening={evening} close={() => setWriting(false)} />;
  return (
    <div className="mt-1 flex flex-wrap items-center gap-x-4">
      <p className="min-w-0 flex-1 text-soft">
        {told || "Gear and soreness are not noted."} {due && <span className="font-semibold text-buoy-ink">{due}</span>}
      </p>
      <button className="action min-h-14 px-4" disabled={!evening} onClick={() => setWriting(true)}>
        Gear, soreness, mass
      </button>
    </div>
  );
}

function Write({ row, evening, close }: { row: Schemas["Tonight"]; evening: Schemas["EveningPage"]; close: () => void }) {
  const zone = useZone();
  const queries = useQueryClient();
  const [gear, setGear] = useState(evening.gear);
  const [soreness, setSoreness] = useState(evening.soreness);
  const [kg, setKg] = useState<number | null>(null);
  const save = useMutation({
    mutationFn: async () => {
      if (kg !== null) {
        const on = today(zone);
        const student = unwrap(await client.GET("/api/students/{student_id}", { params: { path: { student_id: row.student_id } } }));
        const was = student.masses.find((m) => m.measured_on === on)?.mass_kg ?? null;
        unwrap(await client.POST("/api/students/{student_id}/masses", { params: { path: { student_id: row.student_id } }, body: { measured_on: on, mass_kg: kg, was_kg: was } }));
        setKg(null);
      }
      return unwrap(await client.PUT("/api/evenings/{evening_id}/notes", { params: { path: { evening_id: evening.id } }, body: { gear, soreness, notes: evening.notes, version: evening.version } }));
    },
    onSuccess: close,
    onSettled: () => {
      void queries.invalidateQueries({ queryKey: ["evening", evening.id] });
      void queries.invalidateQueries({ queryKey: ["tonight"] });
      void queries.invalidateQueries({ queryKey: ["students"] });
    },
  });
  const toggle = (item: string) => {
    const items = gear.split(",").map((g) => g.trim()).filter(Boolean);
    setGear((items.includes(item) ? items.filter((i) => i !== item) : [...items, item]).join(", "));
  };
  return (
    <Form submit="Note it" busy={save.isPending} error={save.error} save={() => save.mutate()} close={close} className="mt-2 space-y-3 border-y border-line py-3">
      <Labelled name="Gear" className="block">
        <input className="field min-h-12 w-full" maxLength={80} value={gear} onChange={(e) => setGear(e.target.value)} />
      </Labelled>
      <div className="flex flex-wrap gap-2">
        {GEAR.map((item) => (
          <button key={item} type="button" aria-pressed={gear.includes(item)} className={`${gear.includes(item) ? "action-main" : "action"} min-h-12 px-3`} onClick={() => toggle(item)}>
            {item}
          </button>
        ))}
      </div>
      <Labelled name="Sore where" className="block">
        <input className="field min-h-12 w-full" maxLength={300} placeholder="right shoulder, since Sunday" value={soreness} onChange={(e) => setSoreness(e.target.value)} />
      </Labelled>
      <Quantity name="Body mass today" unit="kg" decimals={1} className="block" wide="min-h-12 w-32" placeholder={row.mass_kg} value={kg} onChange={setKg} />
    </Form>
  );
}
