import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { Failed, Loading } from "../ui/state";
import { useStrikeName } from "../ui/StrikePicker";
import { useReading } from "./reading";
import { Window } from "../ui/Window";

const inHundred = (share: number) => `${Math.round(100 * share)} in 100`;

/** What strikes that nobody named look like, how far that can be trusted, and one tap to call them so. */
export function Names() {
  const { strikes, editing } = useReading();
  const nameOf = useStrikeName();
  const [told, setTold] = useState(false);
  const looks = strikes.id.flatMap((id, i) => (strikes.guess[i] && strikes.set_id[i] === null ? [{ id, code: strikes.guess[i]! }] : []));
  const learnt = useQuery({
    queryKey: ["names"],
    enabled: looks.length > 0,
    queryFn: async () => unwrap(await client.GET("/api/names")),
  });
  if (looks.length === 0) return null;
  const counts = new Map<string, number>();
  for (const { code } of looks) counts.set(code, (counts.get(code) ?? 0) + 1);
  const [right, said] = (learnt.data?.parts ?? []).reduce(
    ([r, n], p) => [r + p.table.reduce((sum, row, i) => sum + row[i]!, 0), n + p.table.reduce((sum, row) => sum + row.slice(0, -1).reduce((a, b) => a + b, 0), 0)],
    [0, 0],
  );
  return (
    <section aria-label="Names" className="no-print mt-1 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-4 border-oar pl-3">
      <span>
        <b>{looks.length} unnamed strikes look like</b>{" "}
        {[...counts]
          .sort((a, b) => b[1] - a[1])
          .map(([code, n]) => `${n} × ${nameOf(code)}`)
          .join(", ")}
        .
      </span>
      <button className="action min-h-11" onClick={() => editing.name(looks.map((l) => l.id))}>
        Call them so
      </button>
      <button className="plain min-h-11" onClick={() => setTold(true)}>
        {said > 0 ? `Right in ${right} of ${said} on students it had not seen` : "How far to trust it"}
      </button>
      {told && (
        <Window close={() => setTold(false)} title="How far the names can be trusted">
          <p className="mt-1">
            Learnt from what this gym’s coaches named, by the course of the hand or foot. Each student in turn was left out and then named by what the others showed. Where it is unsure, or a strike is like none that was ever named, it says nothing. A kind that nobody named yet can be taken for one that travels alike: name ten of each first.
          </p>
          {learnt.isPending ? <Loading what="the names" /> : learnt.error ? <Failed error={learnt.error} /> : learnt.data.parts.map((p) => <Table key={p.part} of={p} />)}
          <p className="mt-4 text-right">
            <button className="action-main min-h-11" onClick={() => setTold(false)}>
              Close
            </button>
          </p>
        </Window>
      )}
    </section>
  );
}

function Table({ of }: { of: Schemas["NamesOfPart"] }) {
  return (
    <section className="mt-3">
      <h3 className="font-semibold capitalize">{of.part}</h3>
      <p>
        {of.students} students; of what it named, right in {inHundred(of.right)}; silent on {inHundred(1 - of.said)}.
      </p>
      <div className="overflow-x-auto">
        <table className="numeric mt-1">
          <thead>
            <tr className="border-b border-line text-soft">
              <th className="pr-4 text-left font-normal">thrown, down; called, across</th>
              {[...of.names, "unsure"].map((name) => (
                <th key={name} className="px-2 text-right font-normal">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {of.table.map((row, i) => (
              <tr key={of.names[i]} className="border-b border-line">
                <th className="pr-4 text-left font-semibold">{of.names[i]}</th>
                {row.map((n, k) => (
                  <td key={k} className={`px-2 text-right ${k === i ? "font-semibold" : n && k < of.names.length ? "text-buoy-ink" : "text-soft"}`}>
                    {n}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}
