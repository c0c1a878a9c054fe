import { useEffect, useRef, useState } from "react";
import { minutes } from "../../format";
import { Choice } from "./ChooseSet";
import { beepAt, speakAt } from "../taps/sounds";
import { Window } from "../../ui/Window";

const KEPT = "rest_s";
const LENGTHS = [0, 30, 45, 60, 90, 120, 180];
const USUAL_S = 60;
const WARNS_S = 10;
const TICK_MS = 250;

/** The rest since a set ended: how long it is to be, a word ten seconds before its end, and two beeps at it. */
export function Rest({ since, now, asked }: { since: string; now: () => number; asked: number | null }) {
  const [at, setAt] = useState(now());
  const [own, setOwn] = useState(() => Number(localStorage.getItem(KEPT) ?? USUAL_S));
  const [choosing, setChoosing] = useState(false);
  const wanted = asked ?? own;
  const elapsed = Math.max(0, (at - Date.parse(since)) / 1000);
  const said = useRef(new Set<string>());
  useEffect(() => {
    const timer = setInterval(() => setAt(now()), TICK_MS);
    return () => clearInterval(timer);
  }, [now]);
  useEffect(() => {
    if (!wanted) return;
    const sound = (name: string, due_s: number, make: (at_ms: number) => void) => {
      const key = `${since} ${wanted} ${name}`;
      if (said.current.has(key) || elapsed < due_s - 0.5 || elapsed > due_s + 0.5) return;
      said.current.add(key);
      make(now() + 1000 * (due_s - elapsed));
    };
    if (wanted > 2 * WARNS_S) sound("ten", wanted - WARNS_S, (ms) => void speakAt(["ten-seconds"], ms));
    sound("over", wanted, (ms) => {
      beepAt(ms);
      beepAt(ms + 300, 1174);
    });
  }, [elapsed, wanted, since, now]);
  const left = wanted - elapsed;
  const over = wanted > 0 && left <= 0;
  const choose = (s: number) => {
    localStorage.setItem(KEPT, String(s));
    setOwn(s);
    setChoosing(false);
  };
  return (
    <div className="flex flex-wrap items-center gap-x-4">
      <p className={`text-lg ${over ? "font-semibold text-buoy-ink" : "text-soft"}`} role="timer" data-rest={over ? "over" : "on"}>
        {over ? "rest is over" : wanted ? "rest left" : "rest"} <span className="figure text-5xl text-ink">{minutes(over ? elapsed : wanted ? left : elapsed)}</span>
      </p>
      <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" disabled={asked !== null} onClick={() => setChoosing(true)}>
        {wanted ? `of ${minutes(wanted)}` : "no limit"}
        {asked !== null && <span className="block text-2xs font-normal">as the trial has it</span>}
      </button>
      <Window open={choosing} close={() => setChoosing(false)} title="How long a rest is" far>
        <Choice name="Rest" values={LENGTHS} chosen={own} choose={choose} tell={(s) => (s ? minutes(s) : "no limit")} />
      </Window>
    </div>
  );
}
