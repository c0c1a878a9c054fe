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

/** Figures that this device shows of a strike, in the order of the registry; null where nobody chose. */
export function useFigures(whose: "adults" | "children"): [string[] | null, (names: string[]) => void] {
  const key = `figures-${whose}`;
  const kept = useSyncExternalStore(subscribe, () => localStorage.getItem(key) ?? "");
  return [kept ? kept.split(" ") : null, (names) => keep(key, names.join(" "))];
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
