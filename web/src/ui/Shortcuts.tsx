import { Dialog, DialogPanel, DialogTitle } from "@headlessui/react";

export type Keys = [string, string][];

/** The keys of a page, listed. */
export function Shortcuts({ keys, open, close }: { keys: Keys; open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} className="relative z-30">
      <div className="fixed inset-0 bg-black/30" aria-hidden="true" />
      <div className="fixed inset-0 grid place-items-center p-4">
        <DialogPanel className="w-full max-w-md rounded border border-line bg-raised p-5">
          <DialogTitle className="wide-title text-lg">Keys on this page</DialogTitle>
          <dl className="mt-3 grid grid-cols-[6rem_1fr] gap-y-2">
            {keys.map(([key, what]) => (
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
