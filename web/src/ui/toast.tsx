import { useEffect, useSyncExternalStore } from "react";

export interface Undoable {
  text: string;
  back?: () => void;
}

const SHOWN_MS = 12_000;
let shown: Undoable | null = null;
const listeners = new Set<() => void>();

/** Say what was just done, with the way back. What is said next takes its place, whichever page says it. */
export function say(next: Undoable | null): void {
  shown = next;
  for (const listener of listeners) listener();
}

/** What was just done, and the way back. */
export function Toast() {
  const told = useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => shown,
  );
  useEffect(() => {
    if (!told) return;
    const timer = setTimeout(() => say(null), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [told]);
  if (!told) return null;
  return (
    <div role="status" className="toast no-print fixed bottom-5 left-6 z-20 flex max-w-2xl items-center gap-4 rounded bg-ink px-4 py-2 text-ground shadow-lg">
      <span>{told.text}</span>
      {told.back && (
        <button className="min-h-9 font-bold underline" onClick={told.back}>
          Undo
        </button>
      )}
      <button className="min-h-9 px-1" aria-label="Dismiss" onClick={() => say(null)}>
        ✕
      </button>
    </div>
  );
}
