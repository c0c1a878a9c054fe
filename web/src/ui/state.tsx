import type { ReactNode } from "react";

/** What is on its way. */
export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="p-6 text-soft">
      Fetching {what} …
    </p>
  );
}

/** What could not be had, why, and a way on. */
export function Failed({ error, retry }: { error: Error; retry?: () => void }) {
  return (
    <div role="alert" className="m-6 max-w-xl border-l-4 border-buoy py-1 pl-4">
      <p>{error.message || "The server can't be reached."}</p>
      {retry && (
        <button className="plain mt-2 font-semibold" onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}

/** Nothing here yet, and what to do about it. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="max-w-lg p-6">
      <h2 className="wide-title text-lg">{title}</h2>
      <div className="mt-2 text-soft">{children}</div>
    </div>
  );
}

/** A problem beside the form that caused it. */
export function Problem({ error }: { error: Error | null }) {
  return error ? (
    <p role="alert" className="border-l-4 border-buoy py-1 pl-3">
      {error.message}
    </p>
  ) : null;
}
