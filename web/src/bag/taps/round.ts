import { useEffect, useRef, useState } from "react";
import { now, serverClock } from "../heard/clock";
import { tap } from "./outbox";
import { clipOf, speakAt } from "./sounds";
import type { Take } from "../heard/take";

const AHEAD_MS = 700; // a word is given to the sound card so long before it is due
const TICK_MS = 100;

export interface RoundNow {
  words: string; //: that were called last
  left_s: number; //: of the round; negative before it begins
  total_s: number;
  begins_in_s: number;
  rush: boolean;
  over: boolean;
}

/** Runs the latest round of a take: speaks what is due, and tells the server when each call was heard. */
export function useRound(take: Take, ended: () => void): RoundNow | null {
  const [at, setAt] = useState(now());
  const given = useRef(new Set<string>());
  const round = take.marks.findLast((m) => m.kind === "round" && !m.value);
  const rush = take.marks.findLast((m) => m.kind === "round" && m.value === "rush");
  const latest = useRef({ take, ended });
  latest.current = { take, ended };
  useEffect(() => {
    if (!round) return;
    const timer = setInterval(() => {
      const t = now();
      setAt(t);
      const { offset_ms, doubt_ms } = serverClock();
      const local = (iso: string) => Date.parse(iso) - offset_ms;
      const say = (key: string, names: string[], due: number, heard?: (doubt: number) => void) => {
        if (given.current.has(key) || due - t > AHEAD_MS || t - due > AHEAD_MS) return;
        given.current.add(key);
        void speakAt(names, due).then((s) => heard?.(Math.hypot(s.doubt_ms, doubt_ms)));
      };
      const begins = local(round.at);
      const ends = local(round.until!);
      say(`${round.key} begins`, ["round"], begins - 1200);
      say(`${round.key} ten`, ["ten-seconds"], ends - 10_000);
      say(`${round.key} ends`, ["time"], ends);
      const { id, calls } = latest.current.take;
      for (const c of calls) {
        if (c.sounded) continue;
        let place = 0;
        const names = c.words.split(" ").map((w) => clipOf(w, w === "body" ? "" : c.codes[place++]!));
        say(c.key, names.every((n) => n !== null) ? names : [], local(c.at), (doubt) =>
          tap({ what: "sounded", take: id, body: { cues: [{ key: c.key, at: c.at, doubt_ms: doubt }] } }),
        );
      }
      if (t > ends + 1500 && !given.current.has(`${round.key} over`)) {
        given.current.add(`${round.key} over`);
        latest.current.ended();
      }
    }, TICK_MS);
    return () => clearInterval(timer);
  }, [round?.key, round?.at, round?.until]);
  if (!round) return null;
  const server = at + serverClock().offset_ms;
  const begins = Date.parse(round.at);
  const ends = Date.parse(round.until!);
  const called = take.calls.filter((c) => Date.parse(c.at) <= server).at(-1);
  const rushes = !!rush && server >= Date.parse(rush.at) && server <= ends;
  return { words: called?.words ?? "", left_s: (ends - server) / 1000, total_s: (ends - begins) / 1000, begins_in_s: (begins - server) / 1000, rush: rushes, over: server > ends };
}
