import { useState } from "react";
import { Window } from "../ui/Window";

interface Props {
  open: boolean;
  reasons: string[];
  number: number;
  close: () => void;
  exclude: (reason: string) => void;
}

/** Why a strike does not count: one touch for the usual reasons, or own words. */
export function ExcludeDialog({ open, reasons, number, close, exclude }: Props) {
  const [words, setWords] = useState("");
  return (
    <Window open={open} close={close} title={<>Throw out strike {number}: why?</>} width="md">
      <div className="mt-3 grid grid-cols-2 gap-2">
        {reasons
          .filter((r) => r !== "other")
          .map((reason) => (
            <button key={reason} className="action min-h-12" onClick={() => exclude(reason)}>
              {reason}
            </button>
          ))}
      </div>
      <form
        className="mt-3 flex gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (words.trim()) exclude(words.trim());
          setWords("");
        }}
      >
        <input className="field flex-1" aria-label="Another reason" placeholder="another reason" maxLength={120} value={words} onChange={(e) => setWords(e.target.value)} />
        <button className="action" disabled={!words.trim()}>
          Throw out
        </button>
      </form>
      <button className="plain mt-3 py-1" onClick={close}>
        Keep it
      </button>
    </Window>
  );
}
