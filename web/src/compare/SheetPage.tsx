import { useEffect, useRef, useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import type { Schemas } from "../api/client";
import { useStudents } from "../api/queries";
import { useBlocks, useSheet, useTrials } from "../api/trials";
import { longDay, minutes } from "../format";
import { useKeys } from "../ui/keys";
import { Failed, Loading, Problem } from "../ui/state";
import { StrikeName } from "../ui/StrikePicker";
import { Radios } from "../ui/Radios";

/** What to run an evening's blocks from, at the bag or on paper: which level next, how many, how long to rest. */
export function SheetPage() {
  const trialId = Number(useParams().trialId);
  const [params, setParams] = useSearchParams();
  const trials = useTrials();
  const trial = trials.data?.find((t) => t.id === trialId);
  const asked = Number(params.get("student"));
  const studentId = trial?.students.includes(asked) ? asked : trial?.students[0];
  const sheet = useSheet(trialId, studentId);
  const students = useStudents();
  const failed = trials.error ?? sheet.error;
  if (failed) return <Failed error={failed} />;
  if (trials.data && !trial) return <Failed error={new Error("There is no such trial in this gym.")} />;
  if (!trial || !sheet.data || studentId === undefined) return <Loading what="the sheet" />;
  const who = students.data?.filter((s) => trial.students.includes(s.id)) ?? [];
  return (
    <div className="mx-auto max-w-5xl px-6 py-4">
      <div className="no-print flex items-center gap-4">
        {who.length > 1 && (
          <Radios
            name="Whose turn"
            values={who}
            chosen={who.find((s) => s.id === studentId) ?? null}
            choose={(s) => setParams({ student: String(s.id) }, { replace: true })}
            tell={(s) => s.name}
            keyOf={(s) => s.id}
            className="flex flex-wrap gap-2"
            each="min-h-12"
          />
        )}
        <span className="ml-auto flex gap-4">
          <Link className="plain py-2" to={`/students/${studentId}/compare?trial=${trialId}`}>
            Compare
          </Link>
          <button className="plain py-2" onClick={() => window.print()}>
            Print
          </button>
        </span>
      </div>
      <Evening key={studentId} trialId={trialId} studentId={studentId} sheet={sheet.data} levels={trial.levels} />
    </div>
  );
}

interface Props {
  trialId: number;
  studentId: number;
  sheet: Schemas["SheetOut"];
  levels: string[];
}

function Evening({ trialId, studentId, sheet, levels }: Props) {
  const { call, end, takeBack } = useBlocks(trialId, studentId);
  const now = useNow();
  const open = sheet.blocks.find((b) => b.began_at && !b.ended_at);
  const next = sheet.blocks.find((b) => !b.began_at);
  const last = sheet.blocks.filter((b) => b.ended_at).at(-1);
  const rested = last ? (now - Date.parse(last.ended_at!)) / 1000 : Infinity;
  const left = Math.ceil(sheet.rest_s - rested);
  const shown = open ?? next;
  const main = () => {
    if (call.isPending || end.isPending) return;
    if (open) end.mutate(open.id!);
    else if (shown) call.mutate(shown.place);
  };
  useKeys({ " ": main });
  useBeep(last !== undefined && !open && left <= 0);
  return (
    <>
      <h1 className="wide-title mt-3 text-2xl">
        {sheet.student}, evening {sheet.evening}
        {sheet.evening <= sheet.evenings ? ` of ${sheet.evenings}` : `, ${sheet.evenings} were planned`}
      </h1>
      <p className="text-base text-soft">
        <StrikeName code={sheet.code} />
        {sheet.height && ` to the ${sheet.height}`}, {sheet.strikes} a block{sheet.gear && `, ${sheet.gear}`}{sheet.bag && `, ${sheet.bag}`} · {longDay(sheet.on)}
      </p>
      <div className="no-print mt-4 border-y-2 border-ink py-5">
        {shown ? (
          <>
            <p className="text-lg text-soft">
              {open ? "Now" : last && left > 0 ? "Rest, then" : "Next"}: block {shown.place + 1} of {sheet.blocks.length}
            </p>
            <p className="wide-title flex items-center gap-4 text-6xl leading-none first-letter:uppercase">
              <LevelMark place={levels.indexOf(shown.level)} size={52} />
              {shown.level}
            </p>
            <p className="figure mt-4 text-4xl">{open ? `${sheet.strikes} strikes` : last && left > 0 ? minutes(left) : "Ready"}</p>
            <div className="mt-5 flex gap-4">
              {open ? (
                <button className="action-main min-h-20 flex-1 text-2xl" disabled={end.isPending} onClick={main}>
                  Block done
                </button>
              ) : (
                <button className="action-main min-h-20 flex-1 text-2xl" disabled={call.isPending} onClick={main}>
                  Start block {shown.place + 1}
                </button>
              )}
              {(open ?? last) && (
                <button className="action min-h-20 px-8 text-lg" disabled={takeBack.isPending} onClick={() => takeBack.mutate((open ?? last)!.id!)}>
                  Take back block {(open ?? last)!.place + 1}
                </button>
              )}
            </div>
          </>
        ) : (
          <p className="wide-title text-3xl">All {sheet.blocks.length} blocks are thrown.</p>
        )}
        <Problem error={call.error ?? end.error ?? takeBack.error} />
      </div>
      <ol className="mt-4">
        {sheet.blocks.map((b) => (
          <li key={b.place} className={`flex min-h-12 items-center gap-4 border-b border-line text-base ${b === open ? "bg-shade font-bold" : ""}`}>
            <span className="figure w-8 text-right">{b.place + 1}</span>
            <LevelMark place={levels.indexOf(b.level)} size={22} />
            <span className="flex-1">{b.level}</span>
            <span className="text-soft">{b.ended_at ? "thrown" : b.began_at ? "now" : `${sheet.strikes} strikes${b.place + 1 < sheet.blocks.length ? `, then rest ${sheet.rest_s} s` : ""}`}</span>
          </li>
        ))}
      </ol>
      <ul className="mt-4 space-y-1">
        {sheet.cautions.map((c) => (
          <li key={c} className="border-l-4 border-line pl-2">
            {c}
          </li>
        ))}
      </ul>
      <p className="mt-3 text-2xs text-soft">
        The space bar starts and ends blocks. Recordings of this evening find their blocks by the sets in them, else by the times of this sheet; what is left is labelled by hand in Read.
      </p>
    </>
  );
}

function LevelMark({ place, size }: { place: number; size: number }) {
  const color = place === 0 ? "var(--oar)" : place === 1 ? "var(--buoy)" : "var(--ink)";
  const shape = [
    <circle key="0" cx={10} cy={10} r={8} fill={color} />,
    <path key="1" d="M10 1L19 10L10 19L1 10z" fill="none" stroke={color} strokeWidth={3} />,
    <rect key="2" x={2} y={2} width={16} height={16} fill={color} />,
    <path key="3" d="M10 2L19 18H1z" fill="none" stroke={color} strokeWidth={3} />,
  ][place];
  return (
    <svg viewBox="0 0 20 20" width={size} height={size} aria-hidden="true" className="shrink-0">
      {shape}
    </svg>
  );
}

const BEEP_HZ = 880;
const BEEP_S = 0.35;

/** A tone at the moment when rest is over: the coach looks at the student, not at the screen. */
function useBeep(over: boolean) {
  const was = useRef(over);
  useEffect(() => {
    if (over && !was.current) {
      const audio = new AudioContext();
      const tone = audio.createOscillator();
      tone.frequency.value = BEEP_HZ;
      tone.connect(audio.destination);
      tone.onended = () => void audio.close();
      tone.start();
      tone.stop(audio.currentTime + BEEP_S);
    }
    was.current = over;
  }, [over]);
}

/** The time, four times a second: a countdown must not skip. */
function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, []);
  return now;
}
