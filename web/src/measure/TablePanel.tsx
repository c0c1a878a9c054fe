import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useBags } from "../api/queries";
import { BagOptions } from "../ui/BagOptions";
import { Problem } from "../ui/state";
import { SignalLine } from "./SignalLine";

interface Props {
  tables: Schemas["TableOut"][];
  studentId: number;
  change: (table: Schemas["TableOut"]) => void;
  done: () => void;
}

/** Tables of any logger: what each was taken for, shown with its signal, corrected, and brought in together. */
export function TablePanel({ tables, studentId, change, done }: Props) {
  const queries = useQueryClient();
  const bags = useBags();
  const [bag, setBag] = useState("");
  const [task, setTask] = useState("mixed");
  const [name, setName] = useState("");
  const open = tables.flatMap((t) => t.questions);
  const bagId = bag || String(bags.data?.[0]?.id ?? "");
  const bring = useMutation({
    mutationFn: async () =>
      unwrap(
        await client.POST("/api/table-imports", {
          body: { ids: tables.map((t) => t.id), student_id: studentId, bag_id: bagId ? Number(bagId) : null, task, save_as: name },
        }),
      ),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["uploads"] });
      done();
    },
  });
  const placed = tables.every((t) => t.mapping.units.length > 0 && t.mapping.units.every((u) => u.placement));
  return (
    <section aria-label="What the tables hold" className="mt-6 border-t border-line pt-4">
      <h2 className="wide-title text-lg">Is this what {tables.length === 1 ? "the table holds" : "the tables hold"}?</h2>
      {tables.map((t) => (
        <TableCard key={t.id} table={t} change={change} />
      ))}
      <form
        className="mt-4 grid grid-cols-3 items-end gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          bring.mutate();
        }}
      >
        <label>
          <span className="mb-1 block font-semibold">Bag that was struck</span>
          <select className="field w-full" value={bagId} onChange={(e) => setBag(e.target.value)}>
            <BagOptions bags={bags.data} />
          </select>
        </label>
        <label>
          <span className="mb-1 block font-semibold">What was thrown</span>
          <input className="field w-full" maxLength={40} value={task} onChange={(e) => setTask(e.target.value)} />
        </label>
        <label>
          <span className="mb-1 block font-semibold">Remember this logger as</span>
          <input className="field w-full" maxLength={80} placeholder="leave empty not to" value={name} onChange={(e) => setName(e.target.value)} />
        </label>
        <div className="col-span-3 flex items-center gap-4">
          <button className="action-main min-h-12 px-6" disabled={!placed || bring.isPending}>
            {bring.isPending ? "Bringing it in …" : "Bring it in"}
          </button>
          <button type="button" className="plain" onClick={done}>
            Leave it
          </button>
          {!placed && <span className="text-soft">Say where each unit was worn first.</span>}
          {placed && open.length > 0 && <span className="text-soft">Still asked: {open.length}. Look at the signal, then save what is right.</span>}
          <Problem error={bring.error} />
        </div>
      </form>
    </section>
  );
}

function TableCard({ table, change }: { table: Schemas["TableOut"]; change: (table: Schemas["TableOut"]) => void }) {
  const correct = useMutation({
    mutationFn: async (mapping: Schemas["MappingText"]) =>
      unwrap(await client.PUT("/api/tables/{table_id}/mapping", { params: { path: { table_id: table.id } }, body: mapping })),
    onSuccess: change,
  });
  const m = table.mapping;
  const setUnit = (k: number, part: Partial<Schemas["UnitMapText"]>) => correct.mutate({ ...m, units: m.units.map((u, i) => (i === k ? { ...u, ...part } : u)) });
  return (
    <article className="mt-3 border-t border-line pt-3">
      <h3 className="font-semibold break-all">
        {table.file_name} {table.profile && <span className="font-normal text-soft">read as “{table.profile}”</span>}
      </h3>
      <Lines what="Please say" lines={table.questions} strong />
      <Lines what="Physics objects" lines={table.against} strong />
      <Lines what="Taken from physics" lines={table.told} />
      <div className="mt-2 grid grid-cols-3 gap-3">
        <Choice label="Time" value={m.time ?? ""} options={[["", "none: the rate is given"], ...table.columns.map((c) => [c, c] as [string, string])]} onChange={(time) => correct.mutate({ ...m, time })} />
        {m.time ? (
          <Choice label="Time is in" value={m.time_unit ?? "s"} options={table.time_units.map((u) => [u, u])} onChange={(time_unit) => correct.mutate({ ...m, time_unit })} />
        ) : (
          <Figure label="Samples a second" value={m.rate_hz ?? null} save={(rate_hz) => correct.mutate({ ...m, rate_hz })} />
        )}
      </div>
      {m.units.map((u, k) => {
        const signal = table.signals[k];
        return (
          u.load?.length ? (
            <div key={u.load.join()} className="mt-3 grid grid-cols-[10rem_7rem_7rem_1fr] items-end gap-3">
              <Choice label="Under" value={u.placement} options={[["", "say which foot"], ...table.sole_places.map((p) => [p, `${p.startsWith("left") ? "left" : "right"} foot`] as [string, string])]} onChange={(placement) => setUnit(k, { placement })} />
              <Choice label="Load" value={u.load_unit ?? "N"} options={table.load_units.map((x) => [x, x])} onChange={(load_unit) => setUnit(k, { load_unit })} />
              <span className="pb-2 text-2xs text-soft">{u.load.length === 2 ? "heel and forefoot" : "the whole foot"}: {u.load.join(", ")}</span>
              {signal && <SignalLine signal={signal} />}
            </div>
          ) : (
          <div key={`${u.accel.join()}-${u.only}`} className="mt-3 grid grid-cols-[10rem_7rem_7rem_1fr] items-end gap-3">
            <Choice label={`Worn at${u.only ? ` (${u.only})` : ""}`} value={u.placement} options={[["", "say where"], ...table.places.map((p) => [p, placeName(p)] as [string, string])]} onChange={(placement) => setUnit(k, { placement })} />
            <Choice label="Acceleration" value={u.accel_unit ?? "m/s^2"} options={table.accel_units.map((x) => [x, x])} onChange={(accel_unit) => setUnit(k, { accel_unit, accel_scale: 1 })} />
            <Choice label="Turn rate" value={u.gyro_unit ?? "rad/s"} options={table.gyro_units.map((x) => [x, x])} onChange={(gyro_unit) => setUnit(k, { gyro_unit, gyro_scale: 1 })} />
            {signal && <SignalLine signal={signal} />}
            <Axes label="Acceleration x, y, z" columns={table.columns} chosen={u.accel} onChange={(accel) => setUnit(k, { accel })} />
            <Axes label="Turn rate x, y, z" columns={table.columns} chosen={u.gyro} onChange={(gyro) => setUnit(k, { gyro })} />
          </div>
          )
        );
      })}
      <details className="mt-2">
        <summary className="cursor-pointer py-1 text-soft">First rows</summary>
        <div className="overflow-auto" tabIndex={0} role="region" aria-label="First rows">
          <table className="numeric text-2xs">
            <thead>
              <tr>
                {[...table.columns, ...table.word_columns].map((c) => (
                  <th key={c} className="px-2 text-left font-semibold whitespace-nowrap">
                    {c}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {table.preview.map((row) => (
                <tr key={row.join()}>
                  {row.map((cell, i) => (
                    <td key={i} className="px-2 whitespace-nowrap">
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      </details>
      <Problem error={correct.error} />
    </article>
  );
}

function placeName(place: string): string {
  return place.replace(/^(left|right)/, "$1 ");
}

function Lines({ what, lines, strong = false }: { what: string; lines: string[]; strong?: boolean }) {
  return lines.length ? (
    <ul className={`mt-1 border-l-4 pl-3 ${strong ? "border-buoy" : "border-line text-soft"}`}>
      {lines.map((line) => (
        <li key={line}>
          {what}: {line}
        </li>
      ))}
    </ul>
  ) : null;
}

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  onChange: (value: string) => void;
}

function Choice({ label, value, options, onChange }: ChoiceProps) {
  return (
    <label className="min-w-0">
      <span className="mb-1 block text-soft">{label}</span>
      <select className="field w-full" value={value} onChange={(e) => onChange(e.target.value)}>
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}

function Figure({ label, value, save }: { label: string; value: number | null; save: (value: number | null) => void }) {
  const [words, setWords] = useState(value === null ? "" : String(value));
  return (
    <label>
      <span className="mb-1 block text-soft">{label}</span>
      <input className="field w-full" type="number" step="any" min={1} value={words} onChange={(e) => setWords(e.target.value)} onBlur={() => save(words ? Number(words) : null)} />
    </label>
  );
}

/** Three columns, each of which may be turned round. */
function Axes({ label, columns, chosen, onChange }: { label: string; columns: string[]; chosen: string[]; onChange: (columns: string[]) => void }) {
  return (
    <details className="col-span-2">
      <summary className="cursor-pointer py-1 text-soft">{label}</summary>
      {["x", "y", "z"].map((axis, k) => {
        const name = chosen[k] ?? "";
        const turned = name.startsWith("-") && !columns.includes(name);
        const bare = turned ? name.slice(1) : name;
        const set = (next: string, minus: boolean) => onChange(["x", "y", "z"].map((_, i) => (i === k ? (minus ? `-${next}` : next) : (chosen[i] ?? columns[0]!))));
        return (
          <div key={axis} className="flex items-center gap-2 py-0.5">
            <span className="w-3">{axis}</span>
            <select className="field min-w-0 flex-1" aria-label={`${label}: ${axis}`} value={bare} onChange={(e) => set(e.target.value, turned)}>
              {columns.map((c) => (
                <option key={c} value={c}>
                  {c}
                </option>
              ))}
            </select>
            <label className="flex items-center gap-1">
              <input type="checkbox" className="size-4" checked={turned} onChange={(e) => set(bare, e.target.checked)} /> turned round
            </label>
          </div>
        );
      })}
    </details>
  );
}
