import { useEffect, useRef, useSyncExternalStore } from "react";
import type { Schemas } from "../../api/client";

/** What the server tells screens as it happens: of an event's members those that its kind needs are there. */
export type LiveEvent = { [Name in keyof Schemas["LiveEvent"]]: Exclude<Schemas["LiveEvent"][Name], null> };
export type KitState = Schemas["UnitHeard"];

type Listener = (event: LiveEvent) => void;

const listeners = new Set<Listener>();
const watchers = new Set<() => void>();
const AGAIN_MS = 1500;
let source: EventSource | null = null;
let connected = true;
let timer: ReturnType<typeof setTimeout> | undefined;

function state(next: boolean) {
  connected = next;
  for (const watch of watchers) watch();
}

/** One connection for the page, as long as anything listens. A cut one is opened anew; what was missed is asked for. */
function open() {
  source = new EventSource("/api/live/events");
  source.onopen = () => state(true);
  source.onmessage = (message) => {
    const event = JSON.parse(message.data as string) as LiveEvent;
    for (const listener of listeners) listener(event);
  };
  source.onerror = () => {
    state(false);
    source?.close();
    source = null;
    clearTimeout(timer);
    timer = setTimeout(() => listeners.size && !source && open(), AGAIN_MS);
  };
}

export function useLive(onEvent: Listener) {
  const latest = useRef(onEvent);
  latest.current = onEvent;
  useEffect(() => {
    const listener: Listener = (event) => latest.current(event);
    listeners.add(listener);
    if (!source) open();
    return () => {
      listeners.delete(listener);
      if (listeners.size) return;
      source?.close();
      source = null;
      clearTimeout(timer);
    };
  }, []);
}

/** Whether the line to the server stands. */
export function useConnected(): boolean {
  return useSyncExternalStore(
    (watch) => {
      watchers.add(watch);
      return () => watchers.delete(watch);
    },
    () => connected,
  );
}
