import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useBags, useTables } from "../api/queries";
import { BagOptions } from "../ui/BagOptions";
import { Bar } from "../ui/Bar";
import { Failed, Problem } from "../ui/state";
import { reading, TableCard } from "./TableCard";
import { Labelled } from "../ui/Form";

/** Tables of any logger that wait to be brought in: what each was taken for, shown with its signal, corrected, and brought in together. */
export function TablePanel({ studentId }: { studentId: number }) {
  const tables = useTables(studentId);
  if (tables.error) return <Failed error={tables.error} retry={() => void tables.refetch()} />;
  if (!tables.data?.length) return null;
  return <Waiting tables={tables.data} studentId={studentId} />;
}

function Waiting({ tables, studentId }: { tables: Schemas["TableOut"][]; studentId: number }) {
  const queries = useQueryClient();
  const readable = tables.filter((t) => t.state === "done");
  const refetch = () => queries.invalidateQueries({ queryKey: ["tables", studentId] });
  const leave = useMutation({
    mutationFn: async (ids: number[]) => {
      for (const id of ids) unwrap(await client.DELETE("/api/tables/{table_id}", { params: { path: { table_id: id } } }));
    },
    onSettled: refetch,
  });
  return (
    <section aria-label="What the tables hold" className="mt-6 border-t border-line pt-4">
      <h2 className="wide-title text-lg">Is this what {tables.length === 1 ? "the table holds" : "the tables hold"}?</h2>
      {tables.map((t) =>
        t.state === "done" || t.columns.length > 0 ? (
          <TableCard key={t.id} table={t} leave={() => leave.mutate([t.id])} alone={tables.length === 1} />
        ) : (
          <Reading key={t.id} table={t} leave={() => leave.mutate([t.id])} />
        ),
      )}
      {readable.length > 0 && <Bring tables={tables} studentId={studentId} leave={() => leave.mutate(tables.map((t) => t.id))} />}
      <Problem error={leave.error} />
    </section>
  );
}

/** A table on its way through the queue, or one that could not be read. */
function Reading({ table, leave }: { table: Schemas["TableOut"]; leave: () => void }) {
  return (
    <article className="mt-3 border-t border-line pt-3" aria-live="polite">
      <div className="flex items-baseline justify-between gap-4">
        <h3 className="font-semibold break-all">{table.file_name}</h3>
        <button className="plain shrink-0 py-1" onClick={leave}>
          {reading(table) ? "Cancel" : "Dismiss"}
        </button>
      </div>
      {reading(table) ? (
        <>
          <p className="text-soft">Reading it</p>
          <Bar share={table.progress} label={`Reading ${table.file_name}`} />
        </>
      ) : (
        <p role="alert" className="mt-1 border-l-4 border-buoy pl-3">
          {table.message}
        </p>
      )}
    </article>
  );
}

function Bring({ tables, studentId, leave }: { tables: Schemas["TableOut"][]; studentId: number; leave: () => void }) {
  const queries = useQueryClient();
  const bags = useBags();
  const [bag, setBag] = useState("");
  const [task, setTask] = useState("mixed");
  const [name, setName] = useState("");
  const [at, setAt] = useState("");
  const bagId = bag || String(bags.data?.[0]?.id ?? "");
  const bring = useMutation({
    mutationFn: async () =>
      unwrap(
        await client.POST("/api/table-imports", {
          body: { ids: tables.map((t) => t.id), student_id: studentId, bag_id: bagId ? Number(bagId) : null, task, save_as: name, at: at || null },
        }),
      ),
    onSettled: () => Promise.all([queries.invalidateQueries({ queryKey: ["uploads"] }), queries.invalidateQueries({ queryKey: ["tables", studentId] })]),
  });
  const why = whyNotYet(tables);
  return (
    <form
      className="mt-4 grid grid-cols-2 items-end gap-3 border-t border-line pt-4 md:grid-cols-4"
      onSubmit={(e) => {
        e.preventDefault();
        bring.mutate();
      }}
    >
      <Labelled name="Bag that was struck">
        <select className="field w-full" value={bagId} onChange={(e) => setBag(e.target.value)}>
          <BagOptions bags={bags.data} />
        </select>
      </Labelled>
      <Labelled name="What was thrown">
        <input className="field w-full" maxLength={40} value={task} onChange={(e) => setTask(e.target.value)} />
      </Labelled>
      <Labelled name="Began at">
        <input className="field w-full" type="datetime-local" title="Left empty: what the file’s own clock says, else now" value={at} onChange={(e) => setAt(e.target.value)} />
      </Labelled>
      <Labelled name="Remember this logger as">
        <input className="field w-full" maxLength={80} placeholder="leave empty not to" value={name} onChange={(e) => setName(e.target.value)} />
      </Labelled>
      <div className="col-span-full flex flex-wrap items-center gap-4">
        <button className="action-main min-h-12 px-6" disabled={why !== "" || bring.isPending}>
          {bring.isPending ? "Bringing it in …" : "Bring it in"}
        </button>
        <button type="button" className="plain py-2" onClick={leave}>
          Leave {tables.length === 1 ? "it" : "them"}
        </button>
        {why && <span className="text-soft">{why}</span>}
        <Problem error={bring.error} />
      </div>
    </form>
  );
}

/** What is still to be said before the tables can be brought in; empty where nothing is. */
export function whyNotYet(tables: Pick<Schemas["TableOut"], "state" | "message" | "questions" | "mapping" | "columns">[]): string {
  if (tables.some((t) => t.state === "queued" || t.state === "running")) return "Wait until they are read.";
  if (tables.some((t) => t.state === "failed")) return "One of them can’t be read: dismiss it first.";
  const units = tables.flatMap((t) => t.mapping.units);
  if (tables.some((t) => t.mapping.units.length === 0)) return "Say which columns are a unit’s first.";
  if (!units.every((u) => u.placement)) return "Say where each unit was worn first.";
  if (new Set(units.map((u) => u.placement)).size < units.length) return "Two units have the same place: give each its own.";
  const open = tables.flatMap((t) => t.questions).length;
  if (open > 0) return open === 1 ? "One question is open: answer it first." : `${open} questions are open: answer them first.`;
  return tables.some((t) => t.message) ? "Something is impossible as it is: see above." : "";
}
