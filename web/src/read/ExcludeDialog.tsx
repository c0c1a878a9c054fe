import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";
import { useState } from "react";

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
    <Dialog open={open} onClose={close} className="relative z-30">
      <div className="fixed inset-0 bg-black/30" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="w-full max-w-md rounded border border-line bg-raised p-5">
          <DialogTitle className="wide-title text-lg">Throw out strike {number}: why?</DialogTitle>
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
        </DialogPanel>
      </div>
    </Dialog>
  );
}
