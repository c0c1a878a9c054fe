import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

const KEYS: [string, string][] = [
  ["↑ ↓", "the strike before or after, in the table’s order"],
  ["Shift ↑ ↓", "choose several strikes"],
  ["← →", "move the time cursor by 2 ms, with Shift by 20"],
  ["f", "from the floor up, or force and table"],
  ["u", "lay this strike under the others"],
  ["l", "say what the chosen strikes were"],
  ["1 to 6", "a quick remark, and take it back"],
  ["x", "throw the strike out, or take it back"],
  ["Ctrl Z", "undo that"],
  ["?", "this list"],
];

export function Shortcuts({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} className="relative z-30">
      <div className="fixed inset-0 bg-black/30" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="w-full max-w-md rounded border border-line bg-raised p-5">
          <DialogTitle className="wide-title text-lg">Keys on this page</DialogTitle>
          <dl className="mt-3 grid grid-cols-[6rem_1fr] gap-y-2">
            {KEYS.map(([key, what]) => (
              <div key={key} className="contents">
                <dt className="font-semibold">{key}</dt>
                <dd>{what}</dd>
              </div>
            ))}
          </dl>
          <button className="action mt-4" onClick={close}>
            Close
          </button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
