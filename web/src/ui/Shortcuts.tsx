import { Window } from "./Window";

export type Keys = [string, string][];

/** The keys of a page, listed. */
export function Shortcuts({ keys, open, close }: { keys: Keys; open: boolean; close: () => void }) {
  return (
    <Window open={open} close={close} title="Keys on this page" width="md">
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
    </Window>
  );
}
