import { useEffect, useRef, useState } from "react";
import { useStudents, useZone } from "../api/queries";
import { longDay, today } from "../format";
import { useAddress } from "../ui/address";
import { useKeys } from "../ui/keys";
import { Shortcuts, type Keys } from "../ui/Shortcuts";
import { Failed, Loading } from "../ui/state";
import { Entry } from "./Entry";
import { byDay, csvOf, readView, useClear, useLog, type LogView } from "./log";
import { LogRow } from "./LogRow";

const GROUPS = [
  ["evenings", "Evenings"],
  ["notes", "Notes"],
  ["pain", "Pain and breaks"],
  ["decisions", "Trials"],
  ["body", "Body"],
  ["kit", "Kit"],
] as const;

const KEYS: Keys = [
  ["n", "write a note"],
  ["/", "search"],
  ["?", "these keys"],
];

/** All that happened, of one student or of the gym, as one line of time. */
export function LogPage() {
  const [view, change] = useAddress(readView);
  const log = useLog(view);
  const students = useStudents();
  const zone = useZone();
  const clear = useClear();
  const entry = useRef<HTMLInputElement>(null);
  const search = useRef<HTMLInputElement>(null);
  const [keys, setKeys] = useState(false);
  useKeys({ n: () => entry.current?.focus(), "/": () => search.current?.focus(), "?": () => setKeys(true) });
  const failed = log.error ?? students.error;
  if (failed) return <Failed error={failed} retry={() => void log.refetch()} />;
  if (!log.data || !students.data) return <Loading what="the log" />;
  const who = students.data.find((s) => s.id === view.student);
  const lines = log.data.pages.flatMap((p) => p.lines);
  const hurts = log.data.pages[0]!.not_over;
  return (
    <div className="mx-auto max-w-6xl px-6 py-4">
      <h1 className="wide-title text-2xl sm:text-3xl">{who ? who.name : "The gym"}, day by day</h1>
      {hurts.map((m) => (
        <p key={m.key} className="mt-2 flex flex-wrap items-center gap-x-4 border-l-4 border-buoy pl-3">
          <span>
            <b>Not over</b>, {who ? "" : `${m.student}, `}since {longDay(m.day)}: {m.said.text}. What it stops rests until it is cleared.
          </span>
          <button className="action no-print min-h-11" onClick={() => clear(m.key, today(zone), m.said.text)}>
            Cleared today
          </button>
        </p>
      ))}
      <Entry ref={entry} student={view.student} students={students.data.filter((s) => !s.left_on)} />
      <Filters view={view} change={change} search={search} keys={() => setKeys(true)}>
        <select className="field min-h-11" aria-label="Whose log" value={view.student ?? ""} onChange={(e) => change({ student: e.target.value })}>
          <option value="">The whole gym</option>
          {students.data.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </Filters>
      {lines.length === 0 && <p className="mt-6 text-soft">{filtered(view) ? "Nothing of the kind was noted." : "Nothing has happened yet: the first evening, note or figure will stand here."}</p>}
      <ol aria-label="Days" aria-busy={log.isPlaceholderData} className={log.isPlaceholderData ? "opacity-60" : ""}>
        {byDay(lines).map(([day, rows]) => (
          <li key={day} className="mt-4 border-t-2 border-ink pt-1">
            <h2 className="font-semibold">{longDay(day)}</h2>
            <ul>
              {rows.map((line) => (
                <LogRow key={`${line.kind} ${line.key}`} line={line} named={!who} />
              ))}
            </ul>
          </li>
        ))}
      </ol>
      {log.hasNextPage && (
        <button className="action no-print mt-4 min-h-11" disabled={log.isFetchingNextPage} onClick={() => void log.fetchNextPage()}>
          {log.isFetchingNextPage ? "Fetching …" : "Earlier days"}
        </button>
      )}
      <Shortcuts keys={KEYS} open={keys} close={() => setKeys(false)} />
    </div>
  );
}

function filtered(view: LogView): boolean {
  return view.show.length > 0 || !!view.text || !!view.since || !!view.until;
}

interface FiltersProps {
  view: LogView;
  change: (part: Partial<Record<keyof LogView, string | string[]>>) => void;
  search: React.RefObject<HTMLInputElement | null>;
  keys: () => void;
  children: React.ReactNode;
}

const TYPED_MS = 250;

function Filters({ view, change, search, keys, children }: FiltersProps) {
  const [text, setText] = useState(view.text);
  useEffect(() => setText(view.text), [view.text]);
  useEffect(() => {
    if (text === view.text) return;
    const timer = setTimeout(() => change({ text }), TYPED_MS);
    return () => clearTimeout(timer);
  }, [text, view.text, change]);
  const toggle = (group: string) => change({ show: view.show.includes(group) ? view.show.filter((g) => g !== group) : [...view.show, group] });
  return (
    <search className="no-print mt-4 flex flex-wrap items-center gap-2">
      {children}
      <input ref={search} type="search" className="field min-h-11 w-56" aria-label="Search the log" placeholder="Search, as wrist or hip" maxLength={200} value={text} onChange={(e) => setText(e.target.value)} />
      <div role="group" aria-label="Kinds" className="flex flex-wrap gap-1">
        {GROUPS.map(([group, name]) => (
          <button key={group} className={`min-h-11 rounded-sm border border-line px-3 font-semibold ${view.show.includes(group) ? "bg-ink text-ground" : "hover:bg-shade"}`} aria-pressed={view.show.includes(group)} onClick={() => toggle(group)}>
            {name}
          </button>
        ))}
      </div>
      <span className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1 text-2xs text-soft">
          from
          <input type="date" className="field min-h-11 text-ink" value={view.since} onChange={(e) => change({ since: e.target.value })} />
        </label>
        <label className="flex items-center gap-1 text-2xs text-soft">
          to
          <input type="date" className="field min-h-11 text-ink" value={view.until} onChange={(e) => change({ until: e.target.value })} />
        </label>
      </span>
      <span className="flex gap-5 text-2xs sm:ml-auto">
        <a className="plain inline-flex min-h-9 items-center" href={csvOf(view)} download>
          These lines as CSV
        </a>
        <button className="plain min-h-9" onClick={() => window.print()}>
          Print
        </button>
        <button className="plain min-h-9" onClick={keys}>
          Keys
        </button>
      </span>
    </search>
  );
}
