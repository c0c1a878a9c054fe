import { useSyncExternalStore } from "react";
import { client, Refused, unwrap, type Schemas } from "../../api/client";

/** A tap that the server has not had yet. It carries its own instant and key: told late or twice, it counts right. */
export type Tap =
  | { what: "step"; take?: undefined; station: number; body: Schemas["TurnIn"] }
  | { what: "begin"; take: number; body: Schemas["BeginIn"] }
  | { what: "end"; take: number; body: Schemas["SetEndIn"] }
  | { what: "finish"; take: number; body: Schemas["WhenIn"] }
  | { what: "round"; take: number; body: Schemas["RoundIn"] }
  | { what: "exclude"; take: number; body: Schemas["ExcludeIn"] }
  | { what: "restore"; take: number; body: Schemas["RestoreIn"] }
  | { what: "hurts"; take: number; student: number; body: Schemas["MarkIn"] }
  | { what: "note"; take: number; body: Schemas["NoteTextIn"] }
  | { what: "remark"; take: number; strike: number; body: Schemas["RemarkIn"] }
  | { what: "sounded"; take: number; body: Schemas["SoundedIn"] };

type Failed = (error: Refused) => void;
type Done = (answer: unknown) => void;

const AGAIN_MS = 1000;
const KEPT = "taps"; // on the tablet, so that a page that is closed or reloaded loses none
const watchers = new Set<() => void>();
const failing = new WeakMap<Tap, Failed>();
const doing = new WeakMap<Tap, Done>();
let queue: Tap[] = kept();
let working = false;
let refused: Refused | null = null; // of a tap whose page is gone
if (queue.length) void work();

function kept(): Tap[] {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "[]") as Tap[];
  } catch {
    return []; // nothing is kept here, or not by this page
  }
}

function now(next: Tap[]) {
  queue = next;
  try {
    localStorage.setItem(KEPT, JSON.stringify(queue));
  } catch {
    // no room, or not allowed: they wait in this page alone
  }
  for (const watch of watchers) watch();
}

async function send(tap: Tap): Promise<unknown> {
  if (tap.what === "step") return unwrap(await client.POST("/api/stations/{station_id}/takes", { params: { path: { station_id: tap.station } }, body: tap.body }));
  const params = { path: { take_id: tap.take } };
  switch (tap.what) {
    case "begin":
      return unwrap(await client.POST("/api/takes/{take_id}/sets", { params, body: tap.body }));
    case "end":
      return unwrap(await client.POST("/api/takes/{take_id}/sets/end", { params, body: tap.body }));
    case "finish":
      return unwrap(await client.POST("/api/takes/{take_id}/end", { params, body: tap.body }));
    case "round":
      return unwrap(await client.POST("/api/takes/{take_id}/rounds", { params, body: tap.body }));
    case "exclude":
      return unwrap(await client.POST("/api/strikes/exclude", { body: tap.body }));
    case "restore":
      return unwrap(await client.POST("/api/strikes/restore", { body: tap.body }));
    case "hurts":
      return unwrap(await client.POST("/api/students/{student_id}/marks", { params: { path: { student_id: tap.student } }, body: tap.body }));
    case "note":
      return unwrap(await client.POST("/api/log/notes", { body: tap.body }));
    case "remark":
      return unwrap(await client.POST("/api/strikes/{strike_id}/remarks", { params: { path: { strike_id: tap.strike } }, body: tap.body }));
    case "sounded":
      return unwrap(await client.POST("/api/takes/{take_id}/sounded", { params, body: tap.body }));
  }
}

async function work() {
  if (working) return;
  working = true;
  while (queue.length) {
    const one = queue[0]!;
    try {
      const answer = await send(one);
      now(queue.filter((t) => t !== one));
      doing.get(one)?.(answer);
    } catch (error) {
      if (error instanceof Refused && error.status >= 400 && error.status < 500 && error.status !== 401) {
        now(queue.filter((t) => t !== one));
        (failing.get(one) ?? unheard)(error);
      } else await new Promise((resolve) => setTimeout(resolve, AGAIN_MS)); // no network, no database, signed out: again
    }
  }
  working = false;
}

function unheard(error: Refused) {
  refused = error;
  for (const watch of watchers) watch();
}

/** Do it, in order, however long the server is away. */
export function tap(one: Tap, failed?: Failed, done?: Done) {
  if (failed) failing.set(one, failed);
  if (done) doing.set(one, done);
  now([...queue, one]);
  void work();
}

/** A tap that waits is taken back; one that is on its way may still arrive. */
export function callOff(one: Tap) {
  now(queue.filter((t) => t !== one));
}

function subscribe(watch: () => void) {
  watchers.add(watch);
  return () => watchers.delete(watch);
}

/** Key of the set whose beginning still waits, at a take: an end that is tapped now is its. */
export function waitingSet(take: number): string | undefined {
  return queue.flatMap((t) => (t.what === "begin" && t.take === take ? [t.body.key] : [])).at(-1);
}

/** Taps that wait for the server. */
export function useWaiting(): Tap[] {
  return useSyncExternalStore(subscribe, () => queue);
}

/** What the server said of a tap that was made before this page was loaded, and that it did not take. */
export function useRefused(): Refused | null {
  return useSyncExternalStore(subscribe, () => refused);
}
