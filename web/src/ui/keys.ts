import { useEffect, useRef } from "react";

/** Is the key meant for a field that is being filled in? */
export function isTyping(e: KeyboardEvent): boolean {
  return e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement || e.target instanceof HTMLTextAreaElement;
}

let byKeys = false; //: the last move was by the Tab key, not by a finger: the browser's own focus-visible turns true with any key
window.addEventListener("keydown", (e) => (byKeys ||= e.key === "Tab"), true);
window.addEventListener("pointerdown", () => (byKeys = false), true);

/** Single keys of a page; none while something is being typed. */
export function useKeys(actions: Record<string, () => void>) {
  const latest = useRef(actions);
  latest.current = actions;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const action = latest.current[e.key];
      const button = e.key === " " && e.target instanceof HTMLButtonElement ? e.target : null;
      const pressed = button && byKeys; // who goes by keys presses it; one that was tapped keeps no key
      if (!action || pressed || isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      e.preventDefault();
      button?.blur();
      action();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
}
