import { useEffect, useRef } from "react";

export interface ReadKeys {
  blocked: boolean;
  undo: () => void;
  help: () => void;
  move: (by: number, extend: boolean) => void;
  cursor: (byMs: number) => void;
  exclude: () => void;
  label: () => void;
  remark: (k: number) => void;
  show: () => void;
  under: () => void;
}

const STEP_MS = 2;
const LEAP_MS = 20;

/** The keys of the reading page; none while a dialog is open or something is being typed. */
export function useReadKeys(keys: ReadKeys) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const k = latest.current;
      const typing = e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement || e.target instanceof HTMLTextAreaElement;
      if (typing || k.blocked || e.altKey) return;
      if (e.ctrlKey || e.metaKey) {
        if (e.key === "z") {
          e.preventDefault();
          k.undo();
        }
        return;
      }
      const leap = e.shiftKey ? LEAP_MS : STEP_MS;
      const actions: Record<string, () => void> = {
        ArrowDown: () => k.move(1, e.shiftKey),
        ArrowUp: () => k.move(-1, e.shiftKey),
        ArrowRight: () => k.cursor(leap),
        ArrowLeft: () => k.cursor(-leap),
        "?": k.help,
        x: k.exclude,
        l: k.label,
        f: k.show,
        u: k.under,
      };
      const action = /^[1-9]$/.test(e.key) ? () => k.remark(Number(e.key) - 1) : actions[e.key];
      if (!action) return;
      e.preventDefault();
      action();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
