import { useEffect, useState } from "react";
import { minutes } from "../format";
import { now, serverClock } from "./heard/clock";

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
