import { useSyncExternalStore } from "react";
import { Refused } from "../api/client";

/** Taps that the server has not had yet. They carry their own instant and key: told late or twice, they count right. */
interface Waiting {
  what: string;
  send: () => Promise<unknown>;
  failed: (error: Refused) => void;
}

const AGAIN_MS = 1000;
const queue: Waiting[] = [];
const watchers = new Set<() => void>();
let running = false;

function told() {
  for (const watch of watchers) watch();
}

async function work() {
  if (running) return;
  running = true;
  while (queue.length) {
    const one = queue[0]!;
    try {
      await one.send();
      queue.shift();
    } catch (error) {
      if (error instanceof Refused && error.status >= 400 && error.status < 500) {
        queue.shift();
        one.failed(error);
      } else await new Promise((resolve) => setTimeout(resolve, AGAIN_MS)); // no network, or no database: again
    }
    told();
  }
  running = false;
}

/** Do it, in order, however long the server is away. */
export function tap(what: string, send: () => Promise<unknown>, failed: (error: Refused) => void) {
  queue.push({ what, send, failed });
  told();
  void work();
}

/** How many taps wait for the server. */
export function useWaiting(): number {
  return useSyncExternalStore(
    (watch) => {
      watchers.add(watch);
      return () => watchers.delete(watch);
    },
    () => queue.length,
  );
}
