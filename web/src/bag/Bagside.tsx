import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import type { Schemas } from "../api/client";
import { useKeys } from "../ui/keys";
import { Shortcuts, type Keys } from "../ui/Shortcuts";
import { BetweenSets } from "./between/BetweenSets";
import { now, stamped } from "./heard/clock";
import { useFigure } from "./heard/figure";
import { Head } from "./Head";
import { counted, lastSet, running } from "./heard/marks";
import { callOff, tap, useWaiting, waitingSet } from "./taps/outbox";
import { Remarks } from "./running/Remarks";
import { LiveStrip } from "./LiveStrip";
import { RoundRunning, SetRunning } from "./running/SetRunning";
import { useSaying } from "./taps/saying";
import { RoundWaits, SetKept, TurnKept } from "./SetKept";
import { wakeSound } from "./taps/sounds";
import { useMissing, type Coming, type Take } from "./heard/take";
import { Trouble } from "./Trouble";

const KEYS: Keys = [
  ["Space", "begin or end the set"],
  ["1 to 9", "a remark on the last strike"],
  ["X", "the last one was no strike"],
  ["U", "undo"],
  ["F", "another figure"],
];

interface Props {
  take: Take;
  registry: Schemas["Registry"];
  turnTo: (studentId: number) => void;
  turnWaits: number | null; //: the student who stepped up while the server is away
  stepUpError: Error | null;
}

/** The tablet by the bag: legible from three metres, every target fit for gloves. */
export function Bagside({ take, registry, turnTo, turnWaits, stepUpError }: Props) {
  const navigate = useNavigate();
  const [keysShown, setKeysShown] = useState(false);
  const [picked, setPicked] = useState<Coming | null>(null);
  const [problem, setProblem] = useState<Error | null>(null);
  const [tapped, setTapped] = useState<string | null>(null); //: what was tapped and is not answered yet
  const figure = useFigure(registry, take.child);
  const open = running(take);
  const last = lastSet(take);
  const { held, begun, ahead, roundWaits } = useHeld(take.id);
  const next = picked ?? take.coming[ahead] ?? null;
  const strikes = open ? counted(take, open.key) : last ? counted(take, last.key) : take.strikes.filter((s) => !s.excluded);
  const shown = strikes.at(-1);
  const saying = useSaying(take, shown);

  useEffect(() => setTapped(null), [open?.key, take.marks.length]);
  const failed = (error: Error) => {
    setTapped(null);
    setProblem(error);
  };
  const begin = (what: Coming) => {
    wakeSound();
    const when = stamped();
    setProblem(null);
    setPicked(null);
    setTapped("begin");
    setAwaits(false);
    const which = what.planned_id !== null ? { planned_id: what.planned_id } : what.trial_id !== null ? { trial_id: what.trial_id, place: what.block ?? 0 } : { text: { code: what.code, limb: what.limb, level: what.level, levels: what.levels, strikes: what.strikes, gear: "" } };
    tap({ what: "begin", take: take.id, body: { ...when, ...which } }, failed);
  };
  const end = () => {
    const when = stamped();
    setTapped("end");
    tap({ what: "end", take: take.id, body: { ...when, mark: waitingSet(take.id) ?? open?.key ?? "" } }, failed);
  };
  const missing = useMissing(take.station_id) && !take.strikes.length;
  const [awaits, setAwaits] = useState(false); //: a set that is to begin once units come
  const runs = held ? held === "begin" : !!open;
  const beginning = !missing || !next ? "Begin set" : awaits ? "Begins with the units; again: begin now" : "No units yet: begin when they come";
  const asks = !runs ? beginning : open?.code === "called" ? "End round" : "End set";
  const label = tapped && !held ? (tapped === "begin" ? "Beginning …" : "Ending …") : asks;
  const main = () => {
    if ((tapped && !held) || turnWaits !== null || roundWaits) return;
    if (runs) end();
    else if (missing && !awaits) setAwaits(true);
    else if (next) begin(next);
  };
  useEffect(() => {
    if (!awaits || (missing && !runs)) return;
    setAwaits(false);
    if (!runs && next) begin(next);
  }, [awaits, missing, runs]);
  const finish = () => {
    tap({ what: "finish", take: take.id, body: stamped() }, failed);
    void navigate(`/evenings/${take.evening_id}`);
  };
  useKeys({ " ": main, "?": () => setKeysShown(true), x: saying.notAStrike, u: saying.undo, f: figure.next, ...Object.fromEntries(saying.words.slice(0, 9).map((w, k) => [String(k + 1), () => saying.remark(w)])) });

  return (
    <div className="fixed inset-0 z-10 flex flex-col bg-ground px-4 pb-3 sm:px-7" data-bagside={open ? "set" : "rest"}>
      <h1 className="sr-only">
        {take.student} at {take.bag}
      </h1>
      <Head take={take} turnTo={turnTo} finish={finish} openSet={!!open} />
      <Trouble take={take} problem={problem ?? stepUpError ?? saying.problem} />
      <div className="min-h-0 flex-1">
        {turnWaits !== null ? (
          <TurnKept student={turnWaits} />
        ) : begun ? (
          <SetKept at={begun} />
        ) : roundWaits ? (
          <RoundWaits callOff={() => callOff(roundWaits)} />
        ) : open?.code === "called" ? (
          <RoundRunning take={take} strikes={strikes} ended={() => !tapped && end()} />
        ) : open ? (
          <SetRunning take={take} mark={open} strikes={strikes} figure={figure} registry={registry} saying={saying} />
        ) : (
          <BetweenSets take={take} last={last} strikes={strikes} next={next} pick={setPicked} begin={begin} figure={figure} registry={registry} now={now} />
        )}
      </div>
      <LiveStrip take={take} measure={figure.measure} />
      <div className="mt-2 flex min-h-19 items-stretch gap-2 sm:gap-3">
        <Remarks saying={saying} />
        <button className={`action-main min-h-19 w-2/7 min-w-36 shrink-0 ${!runs && missing ? "text-lg leading-tight" : "text-xl sm:text-2xl"}`} disabled={turnWaits !== null || !!roundWaits || (!runs && !next)} onClick={main}>
          {label}
        </button>
      </div>
      <Shortcuts keys={KEYS} open={keysShown} close={() => setKeysShown(false)} />
    </div>
  );
}

const LATE_MS = 1000; // an answer takes a tenth of that as a rule

/** What was tapped last while the server was away, and how many planned sets were begun so: taps go on counting. */
function useHeld(takeId: number) {
  const all = useWaiting().filter((t) => t.take === takeId);
  const waiting = all.filter((t) => t.what === "begin" || t.what === "end");
  const round = all.find((t) => t.what === "round");
  const [late, setLate] = useState(false);
  useEffect(() => {
    setLate(false);
    const timer = setTimeout(() => setLate(true), LATE_MS);
    return () => clearTimeout(timer);
  }, [waiting.length, !round]);
  const ahead = waiting.filter((t) => t.what === "begin" && !t.body.text).length;
  const last = late ? waiting.at(-1) : undefined;
  return { roundWaits: late ? round : undefined, held: last?.what, begun: last?.what === "begin" ? last.body.at : null, ahead };
}
