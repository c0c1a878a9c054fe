import { useSyncExternalStore } from "react";
import { registerSW } from "virtual:pwa-register";

/** The pages themselves, and what was seen last, are kept by the browser. */
export function keepForOffline(): void {
  registerSW({ immediate: true });
}

const SEEN = "seen"; // the cache of vite.config.ts

/** What one coach saw is no other's. */
export async function forgetSeen(): Promise<void> {
  if ("caches" in window) await caches.delete(SEEN);
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
