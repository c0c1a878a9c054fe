import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { Problem } from "../ui/state";
import { SignalLine } from "./SignalLine";

type Table = Schemas["TableOut"];
type Mapping = Schemas["MappingText"];
type UnitMap = Schemas["UnitMapText"];

export function reading(table: Pick<Table, "state">): boolean {
  return table.state === "queued" || table.state === "running";
}

/** One table: what its columns are taken for, what is still asked, and the means to correct it. */
export function TableCard({ table, leave, alone }: { table: Table; leave: () => void; alone: boolean }) {
  const queries = useQueryClient();
  const correct = useMutation({
    mutationFn: async ({ mapping, answered }: { mapping: Mapping; answered: string[] }) =>
      unwrap(await client.PUT("/api/tables/{table_id}/mapping", { params: { path: { table_id: table.id } }, body: { mapping, answered, version: table.version } })),
    onSuccess: (next) =>
      queries.setQueriesData<Table[]>({ queryKey: ["tables"] }, (all) => all?.map((t) => (t.id === next.id ? next : t))),
    onSettled: () => queries.invalidateQueries({ queryKey: ["tables"] }),
  });
  const m = table.mapping;
  const set = (part: Partial<Mapping>) => correct.mutate({ mapping: { ...m, ...part }, answered: [] });
  const setUnit = (k: number, part: Partial<UnitMap>) => set({ units: m.units.map((u, i) => (i === k ? { ...u, ...part } : u)) });
  const busy = reading(table) || correct.isPending;
  return (
    <article className="mt-3 border-t border-line pt-3" aria-busy={busy}>
      <div className="flex items-baseline justify-between gap-4">
        <h3 className="font-semibold break-all">
          {table.file_name} {table.profile && <span className="font-normal text-soft">read as “{table.profile}”</span>}
          {busy && <span className="font-normal text-soft"> · looking again …</span>}
        </h3>
        {!alone && (
          <button className="plain shrink-0 py-1" onClick={leave}>
            Leave it
          </button>
        )}
      </div>
      <Questions questions={table.questions} busy={busy} confirm={(key) => correct.mutate({ mapping: m, answered: [key] })} />
      <Lines what="Impossible" lines={table.message ? [table.message] : []} strong />
      <Lines what="Physics objects" lines={table.against} strong />
      <Lines what="Taken from physics" lines={table.told} />
      <div className="mt-2 grid grid-cols-2 gap-3 md:grid-cols-3">
        <Choice label="Time" value={m.time ?? ""} options={[["", "none: the rate is given"], ...pairs(table.columns)]} onChange={(time) => set({ time })} />
        {m.time ? (
          <Choice label="Time is in" value={m.time_unit ?? "s"} options={pairs(table.time_units)} onChange={(time_unit) => set({ time_unit })} />
        ) : (
          <Figure label="Samples a second" value={m.rate_hz ?? null} placeholder="as the logger was set" save={(rate_hz) => set({ rate_hz })} />
        )}
        {table.word_columns.length > 0 && (
          <Choice label="Names the unit of each row" value={m.sensor_column ?? ""} options={[["", "no column does"], ...pairs([...table.word_columns, ...table.columns])]} onChange={(sensor_column) => set({ sensor_column })} />
        )}
      </div>
      {m.units.map((u, k) => (
        <UnitRows key={k} table={table} unit={u} signal={table.signals[k]} set={(part) => setUnit(k, part)} remove={() => set({ units: m.units.filter((_, i) => i !== k) })} />
      ))}
      <button className="action mt-3" disabled={busy || table.columns.length < 3} onClick={() => set({ units: [...m.units, newUnit(table.columns, m)] })}>
        Add a unit
      </button>
      <FirstRows table={table} />
      <Problem error={correct.error} />
    </article>
  );
}

/** A unit of the first columns that no other unit nor the time takes; the coach says the rest. */
export function newUnit(columns: string[], m: Mapping): UnitMap {
  const taken = new Set([m.time, ...m.units.flatMap((u) => [...u.accel, ...u.gyro, ...(u.load ?? [])])].map((c) => c?.replace(/^-/, "")));
  const free = columns.filter((c) => !taken.has(c));
  const three = (free.length >= 3 ? free : columns).slice(0, 3);
  return { placement: "", accel: three, gyro: free.length >= 6 ? free.slice(3, 6) : [], accel_unit: "m/s^2", gyro_unit: "rad/s", accel_scale: 1, gyro_scale: 1, only: "", load: [], load_unit: "N" };
}

function UnitRows({ table, unit: u, signal, set, remove }: { table: Table; unit: UnitMap; signal: Table["signals"][number] | undefined; set: (part: Partial<UnitMap>) => void; remove: () => void }) {
  const under = (u.load?.length ?? 0) > 0;
  return (
    <div className="mt-3 grid grid-cols-2 items-end gap-3 border-t border-line pt-2 md:grid-cols-[10rem_9rem_9rem_1fr]">
      {under ? (
        <>
          <Choice label="Under" value={u.placement} options={[["", "say which foot"], ...table.sole_places.map((p) => [p, `${p.startsWith("left") ? "left" : "right"} foot`] as [string, string])]} onChange={(placement) => set({ placement })} />
          <Choice label="Load" value={u.load_unit ?? "N"} options={pairs(table.load_units)} onChange={(load_unit) => set({ load_unit })} />
          <span className="pb-2 text-2xs text-soft">
            {u.load!.length === 2 ? "heel and forefoot" : "the whole foot"}: {u.load!.join(", ")}
          </span>
        </>
      ) : (
        <>
          <Choice label={`Worn at${u.only ? ` (${u.only})` : ""}`} value={u.placement} options={[["", "say where"], ...table.places.map((p) => [p, placeName(p)] as [string, string])]} onChange={(placement) => set({ placement })} />
          <Scaled label="Acceleration" unit={u.accel_unit ?? "m/s^2"} units={table.accel_units} scale={u.accel_scale ?? 1} set={(accel_unit, accel_scale) => set({ accel_unit, accel_scale })} />
          {u.gyro.length > 0 ? (
            <Scaled label="Turn rate" unit={u.gyro_unit ?? "rad/s"} units={table.gyro_units} scale={u.gyro_scale ?? 1} set={(gyro_unit, gyro_scale) => set({ gyro_unit, gyro_scale })} />
          ) : (
            <span className="pb-2 text-soft">no turn rates</span>
          )}
        </>
      )}
      {signal ? <SignalLine signal={signal} /> : <span />}
      <div className="col-span-full flex flex-wrap items-start gap-x-8">
        {!under && (
          <>
            <Axes label="Acceleration x, y, z" columns={table.columns} chosen={u.accel} onChange={(accel) => set({ accel })} />
            <Axes label="Turn rate x, y, z" columns={table.columns} chosen={u.gyro} onChange={(gyro) => set({ gyro })} optional />
          </>
        )}
        <button className="plain ml-auto py-1" onClick={remove}>
          It is no unit
        </button>
      </div>
    </div>
  );
}

/** A unit of measure, and where the column counts, how much of it one count is. */
function Scaled({ label, unit, units, scale, set }: { label: string; unit: string; units: string[]; scale: number; set: (unit: string, scale: number) => void }) {
  return (
    <div className="min-w-0 space-y-1">
      <Choice label={label} value={unit} options={pairs(units)} onChange={(next) => set(next, scale)} />
      <Figure label={`${unit} a count`} value={scale} save={(next) => next && set(unit, next)} small />
    </div>
  );
}

function Questions({ questions, busy, confirm }: { questions: Table["questions"]; busy: boolean; confirm: (key: string) => void }) {
  if (questions.length === 0) return null;
  return (
    <ul className="mt-1 space-y-1 border-l-4 border-buoy pl-3">
      {questions.map((q) => (
        <li key={q.key} className="flex flex-wrap items-center gap-3">
          <span>Please say: {q.text}</span>
          {q.about !== "placement" && q.about !== "columns" && q.about !== "rate" && (
            <button className="action min-h-9 py-1" disabled={busy} onClick={() => confirm(q.key)}>
              It is right as it is
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}

function FirstRows({ table }: { table: Table }) {
  return (
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
            {table.preview.map((row, k) => (
              <tr key={k}>
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
  );
}

function pairs(values: string[]): [string, string][] {
  return values.map((v) => [v, v]);
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
    <label className="block min-w-0">
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

interface FigureProps {
  label: string;
  value: number | null;
  save: (value: number | null) => void;
  placeholder?: string;
  small?: boolean;
}

/** A figure that is sent when it is left, if it is another one. */
function Figure({ label, value, save, placeholder, small = false }: FigureProps) {
  const shown = value === null ? "" : String(Number(value.toPrecision(6)));
  const [words, setWords] = useState<string | null>(null);
  return (
    <label className={`block ${small ? "flex items-center gap-2" : ""}`}>
      <span className={`text-soft ${small ? "text-2xs whitespace-nowrap" : "mb-1 block"}`}>{label}</span>
      <input
        className={`field w-full ${small ? "py-0.5" : ""}`}
        type="number"
        step="any"
        placeholder={placeholder}
        value={words ?? shown}
        onChange={(e) => setWords(e.target.value)}
        onBlur={() => {
          if (words !== null && words !== shown) save(words ? Number(words) : null);
          setWords(null);
        }}
      />
    </label>
  );
}

interface AxesProps {
  label: string;
  columns: string[];
  chosen: string[];
  onChange: (columns: string[]) => void;
  optional?: boolean;
}

/** Three columns, each of which may be turned round; or none, where that can be. */
function Axes({ label, columns, chosen, onChange, optional = false }: AxesProps) {
  const [open, setOpen] = useState(false);
  return (
    <details className="min-w-72" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer py-1 text-soft">{label}</summary>
      {optional && (
        <label className="flex min-h-9 items-center gap-2">
          <input type="checkbox" className="size-5" checked={chosen.length === 0} onChange={(e) => onChange(e.target.checked ? [] : columns.slice(0, 3))} /> none: it has no gyro
        </label>
      )}
      {chosen.length > 0 &&
        ["x", "y", "z"].map((axis, k) => {
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
                <input type="checkbox" className="size-5" checked={turned} onChange={(e) => set(bare, e.target.checked)} /> turned round
              </label>
            </div>
          );
        })}
    </details>
  );
}
