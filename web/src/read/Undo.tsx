import { useEffect } from "react";

export interface Undoable {
  text: string;
  back: () => void;
}

const SHOWN_MS = 12_000;

/** What was just done, and the way back. */
export function Undo({ undo, error, dismiss }: { undo: Undoable | null; error: Error | null; dismiss: () => void }) {
  useEffect(() => {
    if (!undo) return;
    const timer = setTimeout(dismiss, SHOWN_MS);
    return () => clearTimeout(timer);
  }, [undo, dismiss]);
  if (!undo && !error) return null;
  return (
    <div role="status" className="no-print fixed bottom-5 left-6 z-20 flex items-center gap-4 rounded bg-ink px-4 py-2 text-ground shadow-lg">
      <span>{error ? error.message : undo?.text}</span>
      {undo && !error && (
        <button className="min-h-9 font-bold underline" onClick={undo.back}>
          Undo
        </button>
      )}
    </div>
  );
}
