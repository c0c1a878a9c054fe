import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../api/client";
import { useCalls } from "../bag/between/ChooseRound";
import { Form } from "../ui/Form";
import { StrikePicker, useStrikeName } from "../ui/StrikePicker";
import { Failed, Loading } from "../ui/state";
import { Earlier } from "./Earlier";

type Row = [word: string, code: string];

/** What the gym calls its strikes by: numbers or names. Southpaws keep them; stance says which hand leads. */
export function Calls() {
  const calls = useCalls();
  const nameOf = useStrikeName();
  const [editing, setEditing] = useState(false);
  if (calls.error) return <Failed error={calls.error} />;
  if (!calls.data) return <Loading what="the calls" />;
  const rows = Object.entries(calls.data.words);
  return (
    <section aria-label="Calls">
      <div className="flex items-start justify-between gap-4">
        <p className="text-soft">What rounds call out. Left-handers keep the words: lead and rear, never left and right. “body” after a call sends it there.</p>
        <button className="action min-h-11 shrink-0" aria-expanded={editing} onClick={() => setEditing(!editing)}>
          Change the calls
        </button>
      </div>
      {editing ? (
        <CallsForm key={JSON.stringify(rows)} before={rows} close={() => setEditing(false)} />
      ) : (
        <ul className="mt-3 flex flex-wrap gap-x-6 gap-y-1">
          {rows.map(([word, code]) => (
            <li key={word}>
              <b>{word}</b> {nameOf(code)}
            </li>
          ))}
        </ul>
      )}
      <Earlier
        about={`calls ${JSON.stringify(rows)}`}
        load={async () => unwrap(await client.GET("/api/calls/versions"))}
        told={({ words }) => Object.entries(words).map(([word, code]) => `${word} ${nameOf(code)}`).join(", ")}
        stand={async ({ words }) => unwrap(await client.PUT("/api/calls", { body: { words, before: calls.data.words } }))}
        refresh={["calls"]}
      />
    </section>
  );
}

function CallsForm({ before, close }: { before: Row[]; close: () => void }) {
  const queries = useQueryClient();
  const [rows, setRows] = useState<Row[]>(before);
  const change = (k: number, row: Row) => setRows(rows.map((r, i) => (i === k ? row : r)));
  const save = useMutation({
    mutationFn: async () => {
      if (new Set(rows.map(([word]) => word)).size < rows.length) throw new Error("Two calls have the same word. Give each its own.");
      return unwrap(await client.PUT("/api/calls", { body: { words: Object.fromEntries(rows), before: Object.fromEntries(before) } }));
    },
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ["calls"] });
      close();
    },
  });
  return (
    <Form submit="Save the calls" busy={save.isPending} error={save.error} save={() => save.mutate()} close={close}>
      {rows.map(([word, code], k) => (
        <div key={k} className="mt-2 flex items-center gap-3">
          <input className="field w-28" aria-label={`Word ${k + 1}`} value={word} maxLength={12} required onChange={(e) => change(k, [e.target.value.trim(), code])} />
          <div className="w-64">
            <StrikePicker label={`Strike ${k + 1}`} value={code} onChange={(c) => change(k, [word, c])} />
          </div>
          <button type="button" className="plain min-h-11" aria-label={`Take ${word} off`} onClick={() => setRows(rows.filter((_, i) => i !== k))}>
            Take off
          </button>
        </div>
      ))}
      <button type="button" className="plain mt-2 min-h-11" onClick={() => setRows([...rows, ["", "lead-straight"]])}>
        One more
      </button>
    </Form>
  );
}
