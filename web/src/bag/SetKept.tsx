import { useEffect, useState } from "react";
import { minutes } from "../format";
import { now, serverClock } from "./heard/clock";
import { useTonight } from "./heard/take";

/** A set that was begun while the server is away: nothing of it is seen here until it is back. */
export function SetKept({ at }: { at: string }) {
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 1000);
    return () => clearInterval(timer);
  }, []);
  const seconds = Math.max(0, (now() + serverClock().offset_ms - Date.parse(at)) / 1000);
  return (
    <div className="grid h-full place-content-center text-center">
      <p className="wide-title text-4xl">The set runs</p>
      <p className="figure mt-2 text-8xl" role="timer">
        {minutes(seconds)}
      </p>
      <p className="mt-4 text-2xl text-soft">The hub keeps its strikes. They are counted once the server is back.</p>
    </div>
  );
}

/** A round that was asked for while the server is away: it plans the calls, so nothing can be called before. */
export function RoundWaits({ callOff }: { callOff: () => void }) {
  return (
    <div className="grid h-full place-content-center justify-items-center text-center">
      <p className="wide-title text-4xl">The round waits for the server</p>
      <p className="mt-4 text-2xl text-soft">It begins four seconds after the server is back.</p>
      <button className="action mt-6 min-h-19 px-8 text-xl" onClick={callOff}>
        Call it off
      </button>
    </div>
  );
}

const SOON_MS = 1000; // an answer takes a tenth of that as a rule

/** Another has stepped up while the server is away: strikes are theirs from that tap on. */
export function TurnKept({ student }: { student: number }) {
  const name = useTonight().data?.find((t) => t.student_id === student)?.name ?? "The next one";
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), SOON_MS);
    return () => clearTimeout(timer);
  }, []);
  return (
    <div className="grid h-full place-content-center text-center">
      <p className="wide-title text-4xl">{name} is up</p>
      {late && <p className="mt-4 text-2xl text-soft">The hub keeps what is thrown. It is theirs from the tap on, once the server is back.</p>}
    </div>
  );
}
