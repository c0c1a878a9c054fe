import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRecording, useRecordings, useRegistry, useStrikes, useStudent, useZone } from "../api/queries";
import { wordsFor } from "../format";
import { Shortcuts } from "../ui/Shortcuts";
import { useUnits } from "../ui/settings";
import { Empty, Failed, Loading } from "../ui/state";
import { createCursor } from "./cursor";
import { useStrikeEditing } from "./editing";
import { ExcludeDialog } from "./ExcludeDialog";
import { Figures } from "./Figures";
import { FloorUp } from "./FloorUp";
import { ForcePanel } from "./ForcePanel";
import { Names } from "./Names";
import { Heading, Under } from "./Heading";
import { KEYS, useReadKeys } from "./keys";
import { LabelDialog } from "./LabelDialog";
import { OnTheBag } from "./OnTheBag";
import { ReadingOf, useReading, type Reading } from "./reading";
import { StrikeAside } from "./StrikeAside";
import { StrikeStrip } from "./StrikeStrip";
import { StrikeTable } from "./StrikeTable";
import { Toolbar } from "./Toolbar";
import { chosenOf, rowsOf, useView } from "./view";

/** One recording: the strip of all its strikes, the table, and the chosen strike in full. */
export function ReadPage() {
  const studentId = Number(useParams().studentId);
  const recordings = useRecordings(studentId);
  const [view, change] = useView();
  const recordingId = view.recording ?? recordings.data?.[0]?.id;
  const recording = useRecording(recordingId);
  const strikes = useStrikes(recordingId);
  const registry = useRegistry();
  const student = useStudent(studentId);
  if (recordings.error) return <Failed error={recordings.error} retry={() => void recordings.refetch()} />;
  if (recordings.isPending) return <Loading what="the recordings" />;
  if (recordings.data.length === 0)
    return (
      <Empty title="Nothing to read yet">
        <Link className="plain" to={`/students/${studentId}/bring`}>
          Bring in a recording
        </Link>{" "}
        from the bag’s unit, and its strikes appear here.
      </Empty>
    );
  const failed = recording.error ?? strikes.error ?? registry.error ?? student.error;
  if (failed) return <Failed error={failed} />;
  if (!recording.data || !strikes.data || !registry.data || !student.data) return <Loading what="the strikes" />;
  return (
    <OneRecording
      key={recordingId}
      recordings={recordings.data}
      recording={recording.data}
      strikes={strikes.data}
      registry={registry.data}
      view={chosenOf(view, strikes.data, student.data.counts_as_child)}
      child={student.data.counts_as_child}
      change={change}
    />
  );
}

interface Props {
  recordings: Schemas["RecordingRow"][];
  recording: Schemas["RecordingOut"];
  strikes: Schemas["Strikes"];
  registry: Schemas["Registry"];
  view: Reading["view"];
  change: Reading["change"];
  child: boolean;
}

function OneRecording({ recordings, recording, strikes, registry, view, change, child }: Props) {
  const zone = useZone();
  const [units] = useUnits();
  const editing = useStrikeEditing(recording.id, strikes);
  const [dialog, setDialog] = useState<"" | "exclude" | "label" | "keys">("");
  const rows = useMemo(() => rowsOf(strikes, view), [strikes, view]);
  // keys come faster than the address changes: the page knows the strike first, the address follows
  const [number, setNumber] = useState(view.strike ?? strikes.number[strikes.id.indexOf(view.id ?? -1)]);
  const [until, setUntil] = useState<number | null>(null);
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
      setUntil(null);
      change({ strike: strikes.number[i], id: undefined });
    },
    [change, strikes],
  );
  const span = useMemo<[number, number]>(() => {
    const other = until === null ? chosen : until;
    return [Math.min(chosen, other), Math.max(chosen, other)];
  }, [chosen, until]);
  const [cursor] = useState(() => createCursor(view.at, (at) => change({ at })));
  useEffect(() => cursor.follow(view.at), [cursor, view.at]);

  const floorUp = view.show ? view.show === "floor" : strikes.launch_ms.some((ms) => ms !== null);
  useReadKeys({
    blocked: dialog !== "",
    undo: editing.undo,
    help: () => setDialog("keys"),
    move: (by, extend) => {
      // a span runs along the evening, as on the strip, however the table is sorted
      if (extend) return setUntil(Math.min(strikes.id.length - 1, Math.max(0, (until ?? latest.current) + by)));
      const next = rows[Math.min(rows.length - 1, Math.max(0, rows.indexOf(latest.current) + by))];
      if (next !== undefined) choose(next);
    },
    cursor: (by) => floorUp && cursor.move(by),
    exclude: () => (strikes.excluded[chosen] ? editing.exclude(chosen, null) : setDialog("exclude")),
    label: () => setDialog("label"),
    remark: (k) => {
      const what = wordsFor(registry, strikes.limb[chosen] ?? "")[k];
      if (what && chosen >= 0) editing.remark(chosen, what);
    },
    show: () => change({ show: floorUp ? "force" : "floor" }),
    under: () => change({ under: view.under === String(strikes.id[chosen]) ? "" : String(strikes.id[chosen]) }),
  });
  const reading = { recording, strikes, registry, view, change, chosen, shown, span, choose, cursor, editing, units, zone, child };

  return (
    <ReadingOf value={reading}>
      <div className="flex min-h-[640px] flex-col px-6 pt-3 pb-3 lg:h-full">
        <Toolbar recordings={recordings} floorUp={floorUp} label={() => setDialog("label")} help={() => setDialog("keys")} />
        {strikes.id.length === 0 ? (
          <NoStrikes />
        ) : (
          <>
            <Names />
            <StrikeStrip
              onSpan={(from, to) => {
                choose(from);
                setUntil(to);
                setDialog("label");
              }}
            />
            {floorUp ? <FromTheFloor ask={() => setDialog("exclude")} /> : <ForceAndTable rows={rows} ask={() => setDialog("exclude")} />}
          </>
        )}
        <ExcludeDialog
          open={dialog === "exclude"}
          reasons={registry.exclusion_reasons}
          number={chosen >= 0 ? strikes.number[chosen]! : 0}
          close={() => setDialog("")}
          exclude={(reason) => {
            setDialog("");
            editing.exclude(chosen, reason);
          }}
        />
        {dialog === "label" && chosen >= 0 && (
          <LabelDialog
            close={() => setDialog("")}
            label={(text) => {
              setDialog("");
              editing.label(span[0], span[1], text);
            }}
          />
        )}
        <Shortcuts keys={KEYS} open={dialog === "keys"} close={() => setDialog("")} />
        {editing.problem && (
          <div role="alert" className="no-print fixed right-6 bottom-5 z-20 flex max-w-xl items-center gap-4 rounded border-l-4 border-buoy bg-raised px-4 py-2 shadow-lg">
            <span>{editing.problem.message}</span>
            <button className="min-h-9 px-1" aria-label="Dismiss the problem" onClick={editing.dismiss}>
              ✕
            </button>
          </div>
        )}
      </div>
    </ReadingOf>
  );
}

function FromTheFloor({ ask }: { ask: () => void }) {
  const { shown } = useReading();
  return (
    <div className="mt-1 grid min-h-0 flex-1 gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
      {shown >= 0 && (
        <>
          <FloorUp />
          <div className="flex min-h-0 flex-col gap-2 border-line lg:border-l lg:pl-5">
            <Heading ask={ask} />
            <Under />
            <StrikeAside />
          </div>
        </>
      )}
    </div>
  );
}

function ForceAndTable({ rows, ask }: { rows: number[]; ask: () => void }) {
  const { shown } = useReading();
  return (
    <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_13rem] gap-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,22rem)_13rem] xl:grid-cols-[minmax(0,1fr)_minmax(0,26rem)_15.5rem] xl:gap-6">
      <StrikeTable rows={rows} />
      {shown >= 0 && (
        <>
          <section aria-label="The strike" className="flex min-h-0 flex-col">
            <Heading ask={ask} />
            <ForcePanel />
            <OnTheBag />
          </section>
          <Figures />
        </>
      )}
    </div>
  );
}

function NoStrikes() {
  const { recording } = useReading();
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
