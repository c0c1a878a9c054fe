import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { useRegistry } from "../../api/queries";
import { say } from "../../ui/toast";
import { lastSet, running } from "../heard/marks";
import { tap, type Tap } from "./outbox";
import type { Struck, Take } from "../heard/take";

/** What the coach says of the last strike, by touch or key; each can be taken back. */
export interface Saying {
  strike: Struck | undefined;
  words: string[]; //: that fit this family of strikes, those for anything after them
  remark: (what: string) => void;
  notAStrike: () => void;
  wrongStrike: () => void;
  keep: () => void; //: an implausible one is right all the same
  kept: boolean;
  undo: () => void;
  problem: Error | null;
}

export function useSaying(take: Take, strike: Struck | undefined): Saying {
  const queries = useQueryClient();
  const registry = useRegistry().data;
  const [problem, setProblem] = useState<Error | null>(null);
  const [kept, setKept] = useState<ReadonlySet<number>>(new Set());
  const back = useRef<() => void>(() => {});
  const family = (running(take) ?? lastSet(take))?.family ?? "hand";
  const words = useMemo(() => {
    const all = registry?.remarks ?? {};
    const own = all[family] ?? all.hand ?? [];
    return [...own, ...(all.any ?? [])].filter((w, k, list) => list.indexOf(w) === k);
  }, [registry, family]);
  const key = useMemo(() => ["take", take.station_id], [take.station_id]);
  const show = useCallback(
    (id: number, part: (s: Struck) => Partial<Struck>) =>
      queries.setQueryData<Take | null>(key, (t) => t && { ...t, strikes: t.strikes.map((s) => (s.strike === id ? { ...s, ...part(s) } : s)) }),
    [queries, key],
  );
  /** Sent as every tap is; what the server then says of it is shown. */
  const send = (one: Tap) => {
    setProblem(null);
    const asIs = () => void queries.invalidateQueries({ queryKey: key }); // refused, it is no longer shown either
    const failed = (error: Error) => {
      setProblem(error);
      say(null);
      asIs();
    };
    tap(one, failed, asIs);
  };
  const remark = (what: string) => {
    if (!strike) return;
    const on = !strike.remarks.includes(what);
    show(strike.strike, (s) => ({ remarks: on ? [...s.remarks, what] : s.remarks.filter((w) => w !== what) }));
    const note = (now: boolean) => send({ what: "remark", take: take.id, strike: strike.strike, body: { what, on: now } });
    note(on);
    back.current = () => {
      show(strike.strike, (s) => ({ remarks: on ? s.remarks.filter((w) => w !== what) : [...s.remarks, what] }));
      note(!on);
    };
    if (on) say({ text: `“${what}” on strike ${strike.number}.`, back: () => back.current() });
  };
  const exclude = (reason: string) => {
    if (!strike) return;
    const { strike: id, version, number } = strike;
    show(id, () => ({ excluded: reason, version: version + 1 }));
    send({ what: "exclude", take: take.id, body: { ids: [id], versions: [version], reason } });
    back.current = () => {
      back.current = () => {};
      say(null);
      show(id, () => ({ excluded: "" }));
      send({ what: "restore", take: take.id, body: { ids: [id], versions: [version + 1] } });
    };
    say({ text: `Strike ${number} does not count: ${reason}.`, back: () => back.current() });
  };
  return {
    strike,
    words,
    remark,
    notAStrike: () => exclude("not a strike"),
    wrongStrike: () => exclude("wrong strike"),
    keep: () => strike && setKept(new Set([...kept, strike.strike])),
    kept: !!strike && kept.has(strike.strike),
    undo: () => back.current(),
    problem,
  };
}
