import { useSyncExternalStore } from "react";
import type { System } from "../format";

/** Choices of this device: units and theme. */
const listeners = new Set<() => void>();

function subscribe(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

function keep(key: string, value: string) {
  localStorage.setItem(key, value);
  for (const listener of listeners) listener();
}

export function useUnits(): [System, (system: System) => void] {
  const system = useSyncExternalStore(subscribe, () => (localStorage.getItem("units") === "us" ? "us" : "si"));
  return [system, (next) => keep("units", next)];
}

export function useTheme(): [string, (theme: string) => void] {
  const theme = useSyncExternalStore(subscribe, () => {
    const chosen = localStorage.getItem("theme");
    return chosen ?? (matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light");
  });
  return [
    theme,
    (next) => {
      document.documentElement.dataset.theme = next;
      keep("theme", next);
    },
  ];
}
