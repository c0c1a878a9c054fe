import { useSyncExternalStore } from "react";
import { FROM_MS, STEP_MS, TO_MS } from "./limits";

const RESTS_MS = 400;

/** The time cursor of the floor-up view. It moves by itself, and goes to the address when it rests. */
export interface Cursor {
  get: () => number | undefined;
  set: (ms: number | undefined) => void;
  move: (byMs: number) => void;
  follow: (ms: number | undefined) => void; //: the address says otherwise, and nobody is moving it
  subscribe: (hear: () => void) => () => void;
}

export function createCursor(first: number | undefined, rested: (ms: number | undefined) => void, restsMs = RESTS_MS): Cursor {
  let at = first;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const hearers = new Set<() => void>();
  const set = (ms: number | undefined) => {
    const next = ms === undefined || Number.isNaN(ms) ? undefined : Math.min(TO_MS, Math.max(FROM_MS, Math.round(ms / STEP_MS) * STEP_MS));
    if (next === at) return;
    at = next;
    clearTimeout(timer);
    timer = setTimeout(() => {
      timer = undefined;
      rested(at);
    }, restsMs);
    for (const hear of hearers) hear();
  };
  return {
    get: () => at,
    set,
    move: (byMs) => set((at ?? 0) + byMs),
    follow: (ms) => {
      if (timer !== undefined || ms === at) return;
      at = ms;
      for (const hear of hearers) hear();
    },
    subscribe: (hear) => {
      hearers.add(hear);
      return () => hearers.delete(hear);
    },
  };
}

export function useCursorAt(cursor: Cursor): number | undefined {
  return useSyncExternalStore(cursor.subscribe, cursor.get);
}
