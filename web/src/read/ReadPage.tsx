import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { useCallback, useDeferredValue, useMemo, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useRecording, useRecordings, useRegistry, useStrikes, useZone } from "../api/queries";
import { useRemoval } from "../api/removal";
import { useStrikeEditing, type LabelText } from "../api/strikes";
import { clock, day, limbName, plannedName } from "../format";
import { Shortcuts } from "../ui/Shortcuts";
import { Empty, Failed, Loading } from "../ui/state";
import { say } from "../ui/toast";
import { ExcludeDialog } from "./ExcludeDialog";
import { Figures } from "./Figures";
import { FloorUp } from "./FloorUp";
import { ForcePanel } from "./ForcePanel";
import { KEYS, useReadKeys } from "./keys";
import { LabelDialog } from "./LabelDialog";
import { OnTheBag } from "./OnTheBag";
import { StrikeAside } from "./StrikeAside";
import { StrikeStrip } from "./StrikeStrip";
import { StrikeTable } from "./StrikeTable";
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
  const zone = useZone();
  const editing = useStrikeEditing(recording.id);
  const [dialog, setDialog] = useState<"" | "exclude" | "label" | "keys">("");
  const back = useRef<() => void>(() => {});
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

  const done = useCallback((text: string, undo: () => void) => {
    back.current = () => {
      back.current = () => {};
      say(null);
      undo();
    };
    say({ text, back: () => back.current() });
  }, []);
  const setExcluded = useCallback(
    (i: number, reason: string | null) => {
      const was = strikes.excluded[i] || null;
      const id = strikes.id[i]!;
      editing.exclude([id], reason);
      done(reason === null ? `Strike ${strikes.number[i]} counts again.` : `Strike ${strikes.number[i]} thrown out: ${reason}.`, () => editing.exclude([id], was));
    },
    [editing, strikes, done],
  );
  const setLabel = (text: LabelText) => {
    const places = strikes.id.map((_, i) => i).slice(span[0], span[1] + 1);
    const before = places.map((i) => ({ id: strikes.id[i]!, set_id: strikes.set_id[i] ?? null, limb: strikes.limb[i]! }));
    editing.label(
      before.map((b) => b.id),
      text,
    );
    setDialog("");
    done(`${before.length === 1 ? "Strike" : `${before.length} strikes`} labelled ${text.code}.`, () => editing.putBack(before));
  };

  const floorUp = view.show ? view.show === "floor" : strikes.launch_ms.some((ms) => ms !== null);
  useReadKeys({
    blocked: dialog !== "",
    undo: () => back.current(),
    help: () => setDialog("keys"),
    move: (by, extend) => {
      // a span runs along the evening, as on the strip, however the table is sorted
      if (extend) return setUntil(Math.min(strikes.id.length - 1, Math.max(0, (until ?? latest.current) + by)));
      const next = rows[Math.min(rows.length - 1, Math.max(0, rows.indexOf(latest.current) + by))];
      if (next !== undefined) choose(next);
    },
    cursor: (by) => floorUp && change({ at: Math.min(480, Math.max(-450, (view.at ?? 0) + by)) }),
    exclude: () => (strikes.excluded[chosen] ? setExcluded(chosen, null) : setDialog("exclude")),
    label: () => setDialog("label"),
    remark: (k) => {
      const what = registry.remarks[k];
      if (what && chosen >= 0) editing.remark(strikes.id[chosen]!, what, !strikes.remarks[chosen]!.includes(what));
    },
    show: () => change({ show: floorUp ? "force" : "floor" }),
    under: () => change({ under: view.under === String(strikes.id[chosen]) ? "" : String(strikes.id[chosen]) }),
  });

  return (
    <div className="flex min-h-[640px] flex-col px-6 pt-3 pb-3 lg:h-full">
      <div className="flex flex-wrap items-center gap-3">
        <label className="flex items-center gap-2">
          <span className="sr-only">Recording</span>
          <select className="field w-64 font-semibold" value={recording.id} onChange={(e) => change({ recording: Number(e.target.value), strike: undefined, under: "" })}>
            {recordings.map((r) => (
              <option key={r.id} value={r.id}>
                {day(r.acquired_at, zone)}, {clock(r.acquired_at, 0, zone).slice(0, 5)}, {r.task}: {r.strikes} strikes
              </option>
            ))}
          </select>
        </label>
        <ViewChoice floorUp={floorUp} change={change} />
        <label className="flex items-center gap-2">
          <span className="whitespace-nowrap text-soft">Marks show</span>
          <select className="field w-44" aria-label="Height of the marks" value={view.measure} onChange={(e) => change({ measure: e.target.value })}>
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
        {span[1] > span[0] ? (
          <button className="action no-print ml-auto whitespace-nowrap" onClick={() => setDialog("label")}>
            Label {span[1] - span[0] + 1} strikes ( l )
          </button>
        ) : (
          <span className="ml-auto hidden text-2xs whitespace-nowrap text-soft xl:inline">● left, ◆ right, hollow: out</span>
        )}
        <span className="no-print ml-auto flex gap-3 xl:ml-0">
          <Exports id={recording.id} />
          <Remove id={recording.id} change={change} />
          <button className="plain py-1 whitespace-nowrap" onClick={() => setDialog("keys")}>
            Keys ( ? )
          </button>
        </span>
      </div>
      {strikes.id.length === 0 ? (
        <NoStrikes recording={recording} />
      ) : (
        <>
          <StrikeStrip
            recording={recording}
            strikes={strikes}
            measure={registry.measures.find((m) => m.name === view.measure) ?? registry.measures[0]!}
            chosen={chosen}
            span={span}
            onChoose={choose}
            onSpan={(from, to) => {
              choose(from);
              setUntil(to);
              setDialog("label");
            }}
          />
          {floorUp ? (
            <div className="mt-1 grid min-h-0 flex-1 gap-5 lg:grid-cols-[minmax(0,1fr)_20rem]">
              {shown >= 0 && (
                <>
                  <FloorUp recording={recording} strikes={strikes} chosen={shown} registry={registry} view={view} change={change} />
                  <div className="flex min-h-0 flex-col gap-2 border-line lg:border-l lg:pl-5">
                    <Heading recording={recording} strikes={strikes} chosen={shown} zone={zone} ask={() => setDialog("exclude")} restore={() => setExcluded(shown, null)} />
                    <Under strikes={strikes} chosen={shown} view={view} change={change} />
                    <StrikeAside strikes={strikes} chosen={shown} registry={registry} editing={editing} />
                  </div>
                </>
              )}
            </div>
          ) : (
            <div className="mt-3 grid min-h-0 flex-1 grid-cols-[minmax(0,1fr)_13rem] gap-4 lg:grid-cols-[minmax(0,1fr)_minmax(0,22rem)_13rem] xl:grid-cols-[minmax(0,1fr)_minmax(0,26rem)_15.5rem] xl:gap-6">
              <StrikeTable strikes={strikes} rows={rows} registry={registry} view={view} change={change} chosen={chosen} onChoose={choose} />
              {shown >= 0 && (
                <>
                  <section aria-label="The strike" className="flex min-h-0 flex-col">
                    <Heading recording={recording} strikes={strikes} chosen={shown} zone={zone} ask={() => setDialog("exclude")} restore={() => setExcluded(shown, null)} />
                    <ForcePanel recording={recording} strikes={strikes} chosen={shown} registry={registry} />
                    <OnTheBag recording={recording} strikes={strikes} chosen={shown} />
                  </section>
                  <Figures strikes={strikes} chosen={shown} registry={registry} />
                </>
              )}
            </div>
          )}
        </>
      )}
      <ExcludeDialog
        open={dialog === "exclude"}
        reasons={registry.exclusion_reasons}
        number={chosen >= 0 ? strikes.number[chosen]! : 0}
        close={() => setDialog("")}
        exclude={(reason) => {
          setDialog("");
          setExcluded(chosen, reason);
        }}
      />
      {dialog === "label" && chosen >= 0 && (
        <LabelDialog
          count={span[1] - span[0] + 1}
          first={strikes.sets.find((one) => one.id === strikes.set_id[span[0]])}
          limb={strikes.limb[chosen]!}
          registry={registry}
          close={() => setDialog("")}
          label={setLabel}
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
  );
}

function ViewChoice({ floorUp, change }: { floorUp: boolean; change: Props["change"] }) {
  const one = (name: string, show: string, on: boolean) => (
    <button className={`min-h-9 px-3 font-semibold whitespace-nowrap ${on ? "bg-ink text-ground" : "hover:bg-shade"}`} aria-pressed={on} onClick={() => change({ show })}>
      {name}
    </button>
  );
  return (
    <div className="no-print flex shrink-0 overflow-hidden rounded-sm border border-ink" role="group" aria-label="View">
      {one("From the floor up", "floor", floorUp)}
      {one("Force and table", "force", !floorUp)}
    </div>
  );
}

/** Takes the recording away, with the way back; the page goes on to the next one. */
function Remove({ id, change }: { id: number; change: Props["change"] }) {
  const { remove, busy } = useRemoval(() => change({ recording: undefined, strike: undefined, id: undefined, under: "" }));
  return (
    <button className="plain py-1" disabled={busy} onClick={() => remove("recording", id)}>
      Remove
    </button>
  );
}

function Exports({ id }: { id: number }) {
  const files = [
    ["strikes.csv", "Strikes as CSV"],
    ["strikes.parquet", "Strikes as Parquet"],
    ["motion-bids.zip", "The recording as Motion-BIDS"],
  ] as const;
  return (
    <Popover className="relative">
      <PopoverButton className="plain py-1">Export</PopoverButton>
      <PopoverPanel className="absolute right-0 z-20 mt-1 w-60 rounded border border-line bg-raised p-2 shadow-lg">
        {files.map(([file, name]) => (
          <a key={file} className="block px-2 py-2 hover:bg-shade" href={`/api/recordings/${id}/${file}`} download>
            {name}
          </a>
        ))}
      </PopoverPanel>
    </Popover>
  );
}

/** What is laid under the strike: nothing, its set's mean, or another strike. */
function Under({ strikes, chosen, view, change }: { strikes: Schemas["Strikes"]; chosen: number; view: Props["view"]; change: Props["change"] }) {
  const other = strikes.id.indexOf(Number(view.under));
  const before = chosen > 0 ? String(strikes.id[chosen - 1]) : "";
  return (
    <div className="no-print flex items-center gap-2">
      <label className="flex flex-1 items-center gap-2">
        <span className="whitespace-nowrap text-soft">Under it</span>
        <select className="field min-w-0 flex-1" value={view.under} onChange={(e) => change({ under: e.target.value })}>
          <option value="">nothing</option>
          <option value="set">the mean of its set</option>
          {before && before !== view.under && <option value={before}>the strike before</option>}
          {other >= 0 && <option value={view.under}>strike {strikes.number[other]}</option>}
        </select>
      </label>
      <label className="flex items-center gap-1">
        <span className="text-soft">at</span>
        <input
          className="field w-16 px-1.5"
          type="number"
          step={2}
          min={-450}
          max={480}
          placeholder="ms"
          aria-label="Cursor, milliseconds from contact"
          value={view.at ?? ""}
          onChange={(e) => change({ at: e.target.value === "" ? undefined : Math.min(480, Math.max(-450, Number(e.target.value))) })}
        />
      </label>
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

function setOf(strikes: Schemas["Strikes"], i: number): string {
  const set = strikes.sets.find((one) => one.id === strikes.set_id[i]);
  return set ? [set.school, ...Object.values(set.levels)].filter(Boolean).map((w) => `, ${w}`).join("") : "";
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
        <h1 className="wide-title text-lg leading-tight">
          {plannedName(strikes.planned[chosen]!)}
          {strikes.limb[chosen] === "unknown" ? ", limb not known" : `, ${limbName(strikes.limb[chosen]!)}`}
        </h1>
        <p className="numeric text-soft">
          strike {strikes.number[chosen]} of {strikes.number.length}
          {strikes.level[chosen] && `, ${strikes.level[chosen]}`}
          {setOf(strikes, chosen)}, {clock(recording.acquired_at, strikes.contact_s[chosen]!, zone)}
        </p>
        {out && <p className="font-semibold text-buoy-ink">Thrown out: {out}</p>}
      </div>
      <button className="action no-print shrink-0" onClick={out ? restore : ask}>
        {out ? "Take back" : "Throw out"}
      </button>
    </div>
  );
}
