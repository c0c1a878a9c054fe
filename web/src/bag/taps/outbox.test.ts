import { beforeEach, expect, test, vi } from "vitest";
import type { Tap } from "./outbox";

const begin: Tap = { what: "begin", take: 3, body: { at: "2026-11-28T18:00:00Z", doubt_ms: 2, key: "a", planned_id: 7 } };
const end: Tap = { what: "end", take: 3, body: { at: "2026-11-28T18:02:00Z", doubt_ms: 2, key: "b", mark: "a" } };
const kept = new Map<string, string>();
let asked: string[];

/** A server that is away, or answers each request with a status. */
function server(status: number | null) {
  vi.stubGlobal("fetch", async (request: Request) => {
    if (status === null) throw new TypeError("no network");
    asked.push(`${new URL(request.url).pathname} ${((await request.json()) as { key: string }).key}`);
    return Response.json(status < 300 ? {} : { message: "That set has been thrown." }, { status });
  });
}

/** The page as it is loaded anew. */
async function loaded() {
  vi.resetModules();
  return import("./outbox");
}

beforeEach(() => {
  asked = [];
  kept.clear();
  vi.useFakeTimers();
  vi.stubGlobal("document", { cookie: "" });
  vi.stubGlobal("localStorage", { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => kept.set(k, v) });
  vi.stubGlobal("Request", class extends Request {
    constructor(url: string, init?: RequestInit) {
      super(new URL(url, "http://127.0.0.1"), init);
    }
  });
});

test("taps that wait outlive the page, and go in their order once the server is back", async () => {
  server(null);
  const { tap } = await loaded();
  tap(begin);
  tap(end);
  await vi.advanceTimersByTimeAsync(2500);
  expect(JSON.parse(kept.get("taps")!)).toEqual([begin, end]);
  server(200);
  await loaded();
  await vi.advanceTimersByTimeAsync(2500);
  expect(asked.slice(0, 2)).toEqual(["/api/takes/3/sets a", "/api/takes/3/sets/end b"]);
  expect(kept.get("taps")).toBe("[]");
});

test("an end that is tapped while its beginning waits is that set's", async () => {
  server(null);
  const { tap, waitingSet } = await loaded();
  expect(waitingSet(3)).toBeUndefined();
  tap(begin);
  expect([waitingSet(3), waitingSet(4)]).toEqual(["a", undefined]);
});

test("a remark waits like any tap, and says when it has arrived", async () => {
  const remark: Tap = { what: "remark", take: 3, strike: 9, body: { what: "dipped", on: true } };
  const done = vi.fn();
  server(null);
  (await loaded()).tap(remark, undefined, done);
  await vi.advanceTimersByTimeAsync(2500);
  expect([JSON.parse(kept.get("taps")!), done.mock.calls.length]).toEqual([[remark], 0]);
  server(200);
  (await loaded()).tap(remark, undefined, done);
  await vi.advanceTimersByTimeAsync(2500);
  expect([kept.get("taps"), done.mock.calls.length]).toEqual(["[]", 1]);
  expect(asked[0]).toContain("/api/strikes/9/remarks");
});

test("who steps up waits as well, and the answer is who stands there then", async () => {
  const step: Tap = { what: "step", station: 5, body: { student_id: 2, at: "2026-11-28T18:00:00Z", key: "s" } };
  const done = vi.fn();
  server(null);
  (await loaded()).tap(step);
  await vi.advanceTimersByTimeAsync(2500);
  expect(JSON.parse(kept.get("taps")!)).toEqual([step]);
  server(200);
  (await loaded()).tap(step, undefined, done);
  await vi.advanceTimersByTimeAsync(2500);
  expect([asked[0], kept.get("taps"), done.mock.calls]).toEqual(["/api/stations/5/takes s", "[]", [[{}]]]);
});

test("a round that waits can be called off, and what comes after it still goes", async () => {
  const round = { what: "round", take: 3, body: { key: "r", at: "2026-11-28T18:00:00Z", doubt_ms: 2, calls: ["1 2"] } } as Tap;
  server(null);
  const { tap, callOff } = await loaded();
  tap(round);
  tap(end);
  await vi.advanceTimersByTimeAsync(500);
  callOff(round);
  server(200);
  await loaded();
  await vi.advanceTimersByTimeAsync(2500);
  expect([asked[0], kept.get("taps")]).toEqual(["/api/takes/3/sets/end b", "[]"]);
});

test("what the server refuses is told and waits no longer", async () => {
  server(422);
  const failed = vi.fn();
  const { tap } = await loaded();
  tap(begin, failed);
  await vi.advanceTimersByTimeAsync(100);
  expect(failed.mock.calls[0]?.[0]).toMatchObject({ message: "That set has been thrown.", status: 422 });
  expect(kept.get("taps")).toBe("[]");
});
