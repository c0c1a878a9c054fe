import { useEffect, useRef } from "react";
import { isTyping } from "../ui/keys";
import type { Keys } from "../ui/Shortcuts";
import { LEAP_MS, STEP_MS } from "./limits";

export const KEYS: Keys = [
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

/** The keys of the reading page; none while a dialog is open or something is being typed. */
export function useReadKeys(keys: ReadKeys) {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const k = latest.current;
      if (isTyping(e) || k.blocked || e.altKey) return;
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
