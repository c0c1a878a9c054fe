import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useExclusion, useMe, useRecording, useRecordings, useRegistry, useStrikes } from "../api/queries";
import { clock, day, limbName, plannedName } from "../format";
import { Empty, Failed, Loading } from "../ui/state";
import { ExcludeDialog } from "./ExcludeDialog";
import { ForcePanel } from "./ForcePanel";
import { Figures } from "./Figures";
import { OnTheBag } from "./OnTheBag";
import { Shortcuts } from "./Shortcuts";
import { StrikeStrip } from "./StrikeStrip";
import { StrikeTable } from "./StrikeTable";
import { Undo, type Undoable } from "./Undo";
import { rowsOf, useView } from "./view";

/** One recording: the strip of all its strikes, the table, and the chosen strike in full. */
export function ReadPage() {
  const studentId = Number(useParams().studentId);
  const recordings = useRecordings(studentId);
  const [view, change] = useView();
  const recordingId = view.recording ?? recordings.data?.[0]?.id;
  const recording = useRecording(recordingId);
  const strikes = useStrikes(recordingId);
  const registry = useRegistry();
  if (recordings.error) return <Failed error={recordings.error} retry={() => void recordings.refetch()} />;
  if (recordings.isPending) return <Loading what="the recordings" />;
  if (recordings.data.length === 0)
    return (
      <Empty title="Nothing to read yet">
        <Link className="plain" to={`/students/${studentId}/measure`}>
          Bring in a recording
        </Link>{" "}
        from the bag’s unit, and its strikes appear here.
      </Empty>
    );
  const failed = recording.error ?? strikes.error ?? registry.error;
  if (failed) return <Failed error={failed} />;
  if (!recording.data || !strikes.data || !registry.data) return <Loading what="the strikes" />;
  return (
    <Reading
      key={recordingId}
      recordings={recordings.data}
      recording={recording.data}
      strikes={strikes.data}
      registry={registry.data}
      view={view}
      change={change}
    />
  );
}

interface Props {
  recordings: Schemas["RecordingRow"][];
  recording: Schemas["RecordingOut"];
  strikes: Schemas["Strikes"];
  registry: Schemas["Registry"];
  view: ReturnType<typeof useView>[0];
  change: ReturnType<typeof useView>[1];
}

function Reading({ recordings, recording, strikes, registry, view, change }: Props) {
  const zone = useMe().data?.me?.time_zone ?? "UTC";
  const exclusion = useExclusion(recording.id);
  const [asking, setAsking] = useState(false);
  const [helping, setHelping] = useState(false);
  const [undo, setUndo] = useState<Undoable | null>(null);
  const rows = useMemo(() => rowsOf(strikes, view), [strikes, view]);
  // keys come faster than the address changes: the page knows the strike first, the address follows
  const [number, setNumber] = useState(view.strike);
  const chosen = useMemo(() => {
    const at = strikes.number.indexOf(number ?? -1);
    return at >= 0 ? at : (rows[0] ?? -1);
  }, [strikes, number, rows]);
  // the panels follow when there is time: first the strip and the table, and the keys never wait
  const shown = useDeferredValue(chosen, -1);
  const latest = useRef(chosen);
  latest.current = chosen;
  const choose = useCallback(
    (i: number) => {
      latest.current = i;
      setNumber(strikes.number[i]);
      change({ strike: strikes.number[i] });
    },
    [change, strikes],
  );

  const setExcluded = useCallback(
    (i: number, reason: string | null) => {
      const was = strikes.excluded[i] || null;
      exclusion.mutate({ ids: [strikes.id[i]!], reason });
      setUndo({
        text: reason === null ? `Strike ${strikes.number[i]} counts again.` : `Strike ${strikes.number[i]} thrown out: ${reason}.`,
        back: () => {
          exclusion.mutate({ ids: [strikes.id[i]!], reason: was });
          setUndo(null);
        },
      });
    },
    [exclusion, strikes],
  );

  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement;
      if (typing || asking || e.altKey) return;
      if ((e.ctrlKey || e.metaKey) && e.key === "z" && undo) {
        e.preventDefault();
        undo.back();
      } else if (e.ctrlKey || e.metaKey) return;
      else if (e.key === "?") setHelping(true);
      else if (e.key === "ArrowDown" || e.key === "ArrowUp") {
        const at = rows.indexOf(latest.current);
        const next = rows[Math.min(rows.length - 1, Math.max(0, at + (e.key === "ArrowDown" ? 1 : -1)))];
        if (next !== undefined) choose(next);
        e.preventDefault();
      } else if (e.key === "x" && chosen >= 0) {
        if (strikes.excluded[chosen]) setExcluded(chosen, null);
        else setAsking(true);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [asking, choose, chosen, rows, setExcluded, strikes, undo]);

  return (
    <div className="flex h-full min-h-[640px] flex-col px-6 pt-3 pb-4">
      <div className="flex items-center gap-4">
        <label className="flex items-center gap-2">
          <span className="sr-only">Recording</span>
          <select className="field font-semibold" value={recording.id} onChange={(e) => change({ recording: Number(e.target.value), strike: undefined })}>
            {recordings.map((r) => (
              <option key={r.id} value={r.id}>
                {day(r.acquired_at, zone)}, {clock(r.acquired_at, 0, zone).slice(0, 5)}, {r.task}: {r.strikes} strikes
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          <span className="text-soft">Height of the marks</span>
          <select className="field" value={view.measure} onChange={(e) => change({ measure: e.target.value })}>
            {registry.measures
              .filter((m) => m.numeric)
              .map((m) => (
                <option key={m.name} value={m.name}>
                  {m.label}
                </option>
              ))}
          </select>
        </label>
        <Notices recording={recording} registry={registry} />
        <span className="ml-auto text-soft">● left, ◆ right, hollow: thrown out</span>
        <span className="no-print flex gap-4">
          <a className="plain py-1" href={`/api/recordings/${recording.id}/strikes.csv`} download>
            CSV
          </a>
          <button className="plain py-1" onClick={() => setHelping(true)}>
            Keys ( ? )
          </button>
        </span>
      </div>
      {strikes.id.length === 0 ? (
        <NoStrikes recording={recording} />
      ) : (
        <>
          <StrikeStrip recording={recording} strikes={strikes} measure={registry.measures.find((m) => m.name === view.measure)!} chosen={chosen} onChoose={choose} zone={zone} />
          <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_minmax(0,26rem)_15.5rem] gap-6">
            <StrikeTable strikes={strikes} rows={rows} registry={registry} view={view} change={change} chosen={chosen} onChoose={choose} />
            {shown >= 0 && (
              <>
                <section aria-label="The strike" className="flex min-h-0 flex-col">
                  <Heading recording={recording} strikes={strikes} chosen={shown} zone={zone} ask={() => setAsking(true)} restore={() => setExcluded(shown, null)} />
                  <ForcePanel recording={recording} strikes={strikes} chosen={shown} registry={registry} />
                  <OnTheBag recording={recording} strikes={strikes} chosen={shown} />
                </section>
                <Figures recording={recording} strikes={strikes} chosen={shown} registry={registry} />
              </>
            )}
          </div>
        </>
      )}
      <ExcludeDialog
        open={asking}
        reasons={registry.exclusion_reasons}
        number={chosen >= 0 ? strikes.number[chosen]! : 0}
        close={() => setAsking(false)}
        exclude={(reason) => {
          setAsking(false);
          setExcluded(chosen, reason);
        }}
      />
      <Shortcuts open={helping} close={() => setHelping(false)} />
      <Undo undo={undo} error={exclusion.error} dismiss={() => setUndo(null)} />
    </div>
  );
}

function Notices({ recording, registry }: { recording: Schemas["RecordingOut"]; registry: Schemas["Registry"] }) {
  return recording.flags.map((flag) => (
    <p key={flag} role="alert" className="max-w-xl border-l-4 border-buoy pl-3 text-2xs">
      {registry.flags[flag.split(":")[0]!] ?? flag}
    </p>
  ));
}

function NoStrikes({ recording }: { recording: Schemas["RecordingOut"] }) {
  const why = [...new Set(recording.not_measured.map((n) => n.why))];
  return (
    <Empty title="No strikes in this recording">
      {why.length ? (
        <ul className="list-disc pl-5">
          {why.map((w) => (
            <li key={w}>{w}</li>
          ))}
        </ul>
      ) : (
        "Nothing in it was a fast, one-sided push that left the bag moving."
      )}
    </Empty>
  );
}

interface HeadingProps {
  recording: Schemas["RecordingOut"];
  strikes: Schemas["Strikes"];
  chosen: number;
  zone: string;
  ask: () => void;
  restore: () => void;
}

function Heading({ recording, strikes, chosen, zone, ask, restore }: HeadingProps) {
  const out = strikes.excluded[chosen];
  return (
    <div className="flex items-start justify-between gap-3">
      <div>
        <h1 className="wide-title text-xl leading-tight">
          {plannedName(strikes.planned[chosen]!)}
          {strikes.limb[chosen] === "unknown" ? ", limb not known" : `, ${limbName(strikes.limb[chosen]!)}`}
        </h1>
        <p className="numeric text-soft">
          strike {strikes.number[chosen]} of {strikes.number.length}
          {strikes.level[chosen] && `, ${strikes.level[chosen]}`}, {clock(recording.acquired_at, strikes.contact_s[chosen]!, zone)}
        </p>
        {out && <p className="font-semibold text-buoy">Thrown out: {out}</p>}
      </div>
      <button className="action no-print shrink-0" onClick={out ? restore : ask}>
        {out ? "Take back" : "Throw out"}
      </button>
    </div>
  );
}
