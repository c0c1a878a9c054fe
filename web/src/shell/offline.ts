import { useSyncExternalStore } from "react";
import { registerSW } from "virtual:pwa-register";

/** The pages themselves, and what was seen last, are kept by the browser. */
export function keepForOffline(): void {
  registerSW({ immediate: true });
  if ("caches" in window) void caches.delete(BEFORE);
}

const SEEN = "seen-2"; // the cache of vite.config.ts
const BEFORE = "seen"; // of an earlier version, which kept files too

/** What one coach saw is no other's. */
export async function forgetSeen(): Promise<void> {
  if ("caches" in window) await Promise.all([caches.delete(SEEN), caches.delete(BEFORE)]);
}

function subscribe(listener: () => void) {
  window.addEventListener("online", listener);
  window.addEventListener("offline", listener);
  return () => {
    window.removeEventListener("online", listener);
    window.removeEventListener("offline", listener);
  };
}

export function useOffline(): boolean {
  return useSyncExternalStore(subscribe, () => !navigator.onLine);
}
