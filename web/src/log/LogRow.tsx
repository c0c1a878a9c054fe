import { useState } from "react";
import { Link } from "react-router";
import { useZone } from "../api/queries";
import { convert, day, digits } from "../format";
import { useUnits } from "../ui/settings";
import { Loading, Problem } from "../ui/state";
import { useBefore, useReword, useTakeAway, type Line } from "./log";

/** One line of a day: what happened, to whom, who wrote it; notes are written anew here. */
export function LogRow({ line, named }: { line: Line; named: boolean }) {
  const [units] = useUnits();
  const away = useTakeAway();
  const [open, setOpen] = useState<"" | "edit" | "before">("");
  const { said } = line;
  const [value, unit, decimals] = convert(said.mass_kg ?? 0, "kg", 1, units);
  const mass = said.mass_kg === null ? "" : `${digits(value, decimals)} ${unit}`;
  return (
    <li className="grid gap-x-4 border-b border-line py-1.5 sm:grid-cols-[11rem_12rem_minmax(0,1fr)_auto]">
      <span className="font-semibold">{named && (line.student_id ? <Link className="plain" to={`/log?student=${line.student_id}`}>{line.student}</Link> : "The gym")}</span>
      <span className={said.open ? "font-semibold text-buoy-ink" : ""}>
        {said.to ? (
          <Link className="plain" to={said.to}>
            {said.title}
          </Link>
        ) : (
          said.title
        )}
      </span>
      {open === "edit" ? (
        <Rewording line={line} close={() => setOpen("")} />
      ) : (
        <span className="min-w-0 break-words whitespace-pre-line">
          {[mass, said.text].filter(Boolean).join(". ")}
          {said.by && <span className="text-2xs text-soft"> {said.by}</span>}
        </span>
      )}
      <span className="no-print flex items-start gap-3 text-2xs">
        {line.earlier > 0 && (
          <button className="plain min-h-6" aria-expanded={open === "before"} onClick={() => setOpen(open === "before" ? "" : "before")}>
            Said before
          </button>
        )}
        {said.version !== null && open !== "edit" && (
          <>
            <button className="plain min-h-6" aria-label={`Write “${said.text.slice(0, 40)}” anew`} onClick={() => setOpen("edit")}>
              Change
            </button>
            <button className="plain min-h-6" aria-label={`Take “${said.text.slice(0, 40)}” away`} onClick={() => away(line.key)}>
              Take away
            </button>
          </>
        )}
      </span>
      {open === "before" && <Before line={line} />}
    </li>
  );
}

function Rewording({ line, close }: { line: Line; close: () => void }) {
  const [text, setText] = useState(line.said.text);
  const reword = useReword();
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        reword.mutate({ id: line.key, text, version: line.said.version! }, { onSuccess: close });
      }}
    >
      <textarea className="field w-full" aria-label="The note" rows={Math.min(6, 1 + text.length / 80)} required maxLength={4000} autoFocus value={text} onChange={(e) => setText(e.target.value)} onKeyDown={(e) => e.key === "Escape" && close()} />
      <button className="action-main min-h-11" disabled={reword.isPending}>
        Keep
      </button>
      <button type="button" className="plain min-h-11" onClick={close}>
        Cancel
      </button>
      <Problem error={reword.error} />
    </form>
  );
}

function Before({ line }: { line: Line }) {
  const zone = useZone();
  const before = useBefore(line.kind === "over" ? "mark" : line.kind, line.key);
  if (before.error) return <Problem error={before.error} />;
  if (!before.data) return <Loading what="what it said" />;
  return (
    <ul aria-label="Said before" className="col-span-full border-l-2 border-line pl-3 text-2xs">
      {before.data.map((b) => (
        <li key={b.at}>
          until {day(b.at, zone)}, when {b.by} wrote over it: {b.said}
        </li>
      ))}
    </ul>
  );
}
