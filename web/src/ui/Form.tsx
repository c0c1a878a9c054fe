import type { ReactNode } from "react";
import { useAdding } from "./adding";
import { Problem } from "./state";

interface Props {
  submit: string; //: what the main button says
  busy: boolean;
  error: Error | null;
  save: () => void;
  close?: () => void; //: where the form can be left without saving
  className?: string;
  children: ReactNode;
}

/** The frame of a form: its fields, then save, cancel, and what was wrong with it. */
export function Form({ submit, busy, error, save, close, className = "mt-5 border-y border-line py-4", children }: Props) {
  const adding = useAdding();
  return (
    <form
      className={className}
      onSubmit={(e) => {
        e.preventDefault();
        save();
      }}
    >
      {children}
      <div className="mt-3 flex items-center gap-3">
        <button className="action-main min-h-11" disabled={busy || adding}>
          {submit}
        </button>
        {close && (
          <button type="button" className="plain min-h-11" onClick={close}>
            Cancel
          </button>
        )}
        <Problem error={error} />
      </div>
    </form>
  );
}

/** A field under its name. */
export function Labelled({ name, className = "", children }: { name: string; className?: string; children: ReactNode }) {
  return (
    <label className={className}>
      <span className="mb-1 block font-semibold">{name}</span>
      {children}
    </label>
  );
}
