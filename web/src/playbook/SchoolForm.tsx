import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { findMeasure, unitOf } from "../format";
import { Form, Labelled } from "../ui/Form";
import { BareQuantity } from "../ui/Quantity";
import { useUnits } from "../ui/settings";
import { Several, useStrikePicks } from "./Several";

interface Props {
  id?: number;
  school: Schemas["SchoolIn"];
  registry: Schemas["Registry"];
  close: () => void;
}

/** A school written anew: its belief and its checks. */
export function SchoolForm({ id, school, registry, close }: Props) {
  const queries = useQueryClient();
  const picks = useStrikePicks();
  const [text, setText] = useState<Schemas["SchoolIn"]>(school);
  const save = useMutation({
    mutationFn: async () =>
      id === undefined
        ? unwrap(await client.POST("/api/schools", { body: text }))
        : unwrap(await client.PUT("/api/schools/{school_id}", { params: { path: { school_id: id } }, body: text })),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["schools"] });
      await queries.invalidateQueries({ queryKey: ["strike"] });
      close();
    },
  });
  const setCheck = (k: number, part: Partial<Schemas["CheckText"]>) => setText({ ...text, checks: text.checks.map((c, i) => (i === k ? { ...c, ...part } : c)) });
  const [units] = useUnits();
  const of = (name: string) => {
    const measure = findMeasure(registry, name);
    return { unit: measure?.unit ?? "", decimals: measure?.decimals ?? 2 };
  };
  return (
    <Form submit="Save" busy={save.isPending} error={save.error} save={() => save.mutate()} close={close} className="mt-6 border-y border-line py-4">
      <div className="grid grid-cols-[16rem_1fr] gap-3">
        <Labelled name="Name">
          <input className="field w-full" required autoFocus maxLength={60} value={text.name} onChange={(e) => setText({ ...text, name: e.target.value })} />
        </Labelled>
        <Labelled name="What it holds">
          <input className="field w-full" value={text.belief} onChange={(e) => setText({ ...text, belief: e.target.value })} />
        </Labelled>
      </div>
      <table className="mt-4 w-full text-left">
        <thead>
          <tr className="[&>th]:pb-1 [&>th]:font-semibold">
            <th>Check</th>
            <th>Measure</th>
            <th>From</th>
            <th>To</th>
            <th>Strikes</th>
            <th>
              <span className="sr-only">Take off</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {text.checks.map((c, k) => (
            // checks have no name of their own until they are written
            <tr key={k} className="[&>td]:pr-2 [&>td]:pb-1.5">
              <td>
                <input className="field w-full min-w-52" aria-label={`Name of check ${k + 1}`} required maxLength={80} value={c.name} onChange={(e) => setCheck(k, { name: e.target.value })} />
              </td>
              <td>
                <select className="field w-40" aria-label={`Measure of check ${k + 1}`} value={c.measure} onChange={(e) => setCheck(k, { measure: e.target.value })}>
                  {registry.measures.map((m) => (
                    <option key={m.name} value={m.name}>
                      {m.label} {m.unit && `(${unitOf(m, units)})`}
                    </option>
                  ))}
                </select>
              </td>
              <td>
                <BareQuantity key={c.measure} label={`Lower edge of check ${k + 1}`} disabled={c.measure === "chain_order"} {...of(c.measure)} value={c.low} onChange={(low) => setCheck(k, { low })} />
              </td>
              <td>
                <BareQuantity key={c.measure} label={`Upper edge of check ${k + 1}`} disabled={c.measure === "chain_order"} {...of(c.measure)} value={c.high} onChange={(high) => setCheck(k, { high })} />
              </td>
              <td>
                <Several label={`Strikes of check ${k + 1}`} chosen={c.strikes ?? []} picks={picks} none="every strike" change={(strikes) => setCheck(k, { strikes })} />
              </td>
              <td>
                <button type="button" className="plain py-1 whitespace-nowrap" aria-label={`Take off ${c.name}`} onClick={() => setText({ ...text, checks: text.checks.filter((_, i) => i !== k) })}>
                  Take off
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <button type="button" className="action mt-3" onClick={() => setText({ ...text, checks: [...text.checks, { name: "", measure: "lead_load_contact_pct", low: null, high: null, strikes: [] }] })}>
        Add a check
      </button>
    </Form>
  );
}
