import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { Form, Labelled } from "../ui/Form";
import { Quantity } from "../ui/Quantity";

type Values = Schemas["BagValues"];
type NumberKey = Exclude<keyof Values, "mount" | "filling" | "level_bands_m">;

const FIRST: Values = { mount: "swivel", mass_kg: 45, length_m: 1.2, diameter_m: 0.35, sensor_below_top_m: 0.3, pivot_to_top_m: 0, chain_m: 0.5, impulse_gain: 1, impulse_gain_sd: 0, filling: "packed" };
const FIELDS: { key: NumberKey; label: string; unit: "kg" | "m"; mounts?: string[]; optional?: boolean }[] = [
  { key: "mass_kg", label: "Mass", unit: "kg" },
  { key: "mass_sd_kg", label: "Mass is good to ± (1 sd)", unit: "kg", optional: true },
  { key: "length_m", label: "Length", unit: "m" },
  { key: "diameter_m", label: "Width across", unit: "m" },
  { key: "sensor_below_top_m", label: "Unit below the top", unit: "m" },
  { key: "chain_m", label: "Chain or strap", unit: "m", mounts: ["swivel"] },
  { key: "pivot_to_top_m", label: "Pivot above the top", unit: "m", mounts: ["fixed"] },
];

/** A bag's figures, as they are sent back. */
function valuesOf({ id: _id, since: _since, why: _why, inertia_used_kg_m2: _inertia, bands_used_m: _bands, ...values }: Schemas["BagVersionOut"]): Values {
  return values;
}

function hangsOtherwise(was: Values, now: Values): boolean {
  return was.mount !== now.mount || was.filling !== now.filling || FIELDS.some((f) => f.key !== "mass_sd_kg" && (was[f.key] ?? null) !== (now[f.key] ?? null));
}

/** A new bag, or a new version of one: recordings made before keep the old version. */
export function BagForm({ bag, close }: { bag?: Schemas["BagOut"]; close: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(bag?.name ?? "");
  const [values, setValues] = useState<Values>(bag ? valuesOf(bag.current) : FIRST);
  const [alwaysSo, setAlwaysSo] = useState(false);
  const [swing, setSwing] = useState("");
  const save = useMutation({
    mutationFn: async () =>
      unwrap(
        await client.POST("/api/bags", {
          body: { id: bag?.id ?? null, version: bag?.version ?? 0, name, values, always_so: alwaysSo, swing_period_s: swing ? Number(swing) : null, swing_period_sd_s: 0.01 },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["bags"] });
      close();
    },
  });
  return (
    <Form submit={bag ? "Save as a new version" : "Add"} busy={save.isPending} error={save.error} save={() => save.mutate()} close={close}>
      <div className="grid grid-cols-4 items-end gap-3">
        <Labelled name="Name" className="col-span-2">
          <input className="field w-full" required autoFocus maxLength={120} value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <Labelled name="Mount" className="col-span-2">
          <select className="field w-full" value={values.mount} onChange={(e) => setValues({ ...values, mount: e.target.value })}>
            <option value="swivel">swivel: hangs free from a chain or strap</option>
            <option value="fixed">fixed: turns about a pivot above it</option>
            <option value="standing">standing: on its base</option>
            <option value="wall">wall: with a load cell</option>
            <option value="held">held by a partner</option>
          </select>
        </Labelled>
        <Labelled name="Filled with" className="col-span-2">
          <select className="field w-full" value={values.filling} onChange={(e) => setValues({ ...values, filling: e.target.value })}>
            <option value="packed">cloth, sand, foam: moves as one</option>
            <option value="water">water: moves by itself, figures less sure</option>
          </select>
        </Labelled>
        {FIELDS.filter((f) => !f.mounts || f.mounts.includes(values.mount)).map((f) => (
          <Quantity key={f.key} name={f.label} unit={f.unit} decimals={3} required={!f.optional} value={values[f.key]} onChange={(v) => setValues((was) => ({ ...was, [f.key]: v }))} />
        ))}
        <Labelled name="One free swing takes, s" className="col-span-2">
          <input className="field w-full" type="number" step="any" placeholder="leave empty to keep the inertia" value={swing} onChange={(e) => setSwing(e.target.value)} />
        </Labelled>
      </div>
      {bag && hangsOtherwise(bag.current, values) && (
        <fieldset className="mt-3 flex flex-wrap gap-x-6 gap-y-1">
          <legend className="mb-1 font-semibold">Why is it another figure?</legend>
          <label className="flex min-h-11 items-center gap-2">
            <input type="radio" name="why" className="size-5" checked={!alwaysSo} onChange={() => setAlwaysSo(false)} /> The bag was changed: from now on
          </label>
          <label className="flex min-h-11 items-center gap-2">
            <input type="radio" name="why" className="size-5" checked={alwaysSo} onChange={() => setAlwaysSo(true)} /> The figure was wrong: it was always so
          </label>
        </fieldset>
      )}
      <p className="mt-2 text-soft">Hang the bag by its top edge, let it swing a hand’s breadth, time ten swings and divide by ten.</p>
    </Form>
  );
}
