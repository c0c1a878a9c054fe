import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../../api/client";
import { Problem } from "../../ui/state";
import { say } from "../../ui/toast";
import { Choice } from "./ChooseSet";
import { stamped } from "../heard/clock";
import { tap } from "../taps/outbox";
import { wakeSound } from "../taps/sounds";
import type { Take } from "../heard/take";
import { Window } from "../../ui/Window";

const LENGTHS = [30, 60, 90, 120, 180];
const GAPS = [4, 3, 2, 1.5];
const GAP_NAMES: Record<number, string> = { 4: "slow", 3: "medium", 2: "quick", 1.5: "full" };
const ORDERS = ["fixed", "random", "growing"];
const ENDS = ["even", "quicker to the end"];
const BODY = ["head only", "some to the body"];
const RUSH = ["no rush", "last ten seconds: all you can"];
const DENSER = 0.6;
const CHILD_S = 90;

export function useCalls() {
  return useQuery({ queryKey: ["calls"], queryFn: async () => unwrap(await client.GET("/api/calls")) });
}

/** A round with calls: which, in what order, how dense, and how it ends. */
export function ChooseRound({ take, close }: { take: Take; close: () => void }) {
  const calls = useCalls();
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<string[]>(["1 2"]);
  const [length, setLength] = useState(60);
  const [order, setOrder] = useState("random");
  const [gap, setGap] = useState(3);
  const [end, setEnd] = useState(ENDS[0]!);
  const [body, setBody] = useState(BODY[0]!);
  const [rush, setRush] = useState(RUSH[0]!);
  const go = () => {
    wakeSound();
    const pace = { gap_s: gap, last_gap_s: end === ENDS[0] ? gap : DENSER * gap };
    const round = { ...stamped(), length_s: length, calls: chosen, order, ...pace, body_share: body === BODY[0] ? 0 : 0.3, rush: rush !== RUSH[0] };
    const failed = (error: Error) => say({ text: `No round: ${error.message}` });
    tap({ what: "round", take: take.id, body: round }, failed, (page) => queries.setQueryData(["take", take.station_id], page));
    close();
  };
  const offered = [...new Set([...(calls.data?.build ?? []), ...Object.keys(calls.data?.words ?? {})])].filter((c) => c.split(" ").every((w) => calls.data?.words[w]));
  const toggle = (c: string) => setChosen(chosen.includes(c) ? chosen.filter((o) => o !== c) : [...chosen, c]);
  return (
    <Window close={close} title="A round with calls" width="4xl" far>
      <div role="group" aria-label="Calls" className="mt-3">
        <p className="font-semibold">What is called</p>
        <div className="mt-1 grid grid-cols-4 gap-2 md:grid-cols-8">
          {offered.map((c) => (
            <button key={c} aria-pressed={chosen.includes(c)} className={`${chosen.includes(c) ? "action-main" : "action"} min-h-16 px-1 text-lg`} onClick={() => toggle(c)}>
              {c}
            </button>
          ))}
        </div>
      </div>
      <Choice name="Length" values={take.child ? LENGTHS.filter((l) => l <= CHILD_S) : LENGTHS} chosen={length} choose={setLength} tell={(l) => `${l} s`} />
      <div className="grid gap-x-6 md:grid-cols-2">
        <Choice name="Order" values={ORDERS} chosen={order} choose={setOrder} tell={(o) => o} />
        <Choice name="Pace" values={GAPS} chosen={gap} choose={setGap} tell={(g) => GAP_NAMES[g]!} />
        <Choice name="To the end" values={ENDS} chosen={end} choose={setEnd} tell={(e) => e} half />
        <Choice name="Height" values={BODY} chosen={body} choose={setBody} tell={(b) => b} half />
        {!take.child && <Choice name="At the end" values={RUSH} chosen={rush} choose={setRush} tell={(r) => r} half />}
      </div>
      <div className="mt-5 flex gap-3">
        <button className="action-main min-h-16 flex-1 text-xl" disabled={!chosen.length} onClick={go}>
          Begin round
        </button>
        <button className="action min-h-16 px-6 text-lg" onClick={close}>
          Not now
        </button>
      </div>
      <Problem error={calls.error} />
    </Window>
  );
}
