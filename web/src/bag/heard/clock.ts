import { client, unwrap } from "../../api/client";

/** How this device's clock stands to the server's. */
export interface ServerClock {
  offset_ms: number; //: to be added to Date.now()
  doubt_ms: number; //: half the shortest way there and back
}

export interface Exchange {
  sent_ms: number;
  server_ms: number;
  got_ms: number;
}

/** From exchanges: the quickest one knows best (RFC 5905). */
export function clockOf(exchanges: Exchange[]): ServerClock {
  let best: ServerClock = { offset_ms: 0, doubt_ms: Infinity };
  for (const { sent_ms, server_ms, got_ms } of exchanges) {
    const doubt = (got_ms - sent_ms) / 2;
    if (doubt < best.doubt_ms) best = { offset_ms: server_ms - (sent_ms + got_ms) / 2, doubt_ms: doubt };
  }
  return best;
}

const EXCHANGES = 6;
const OLD_MS = 5 * 60_000;
let known: ServerClock = { offset_ms: 0, doubt_ms: Infinity };
let askedAt = -Infinity;

/** The wall clock, without its leaps: a tablet that sets its clock while class is on changes nothing. */
export function now(): number {
  return performance.timeOrigin + performance.now();
}

/** Ask the server what time it is, now and then. */
export async function keepClock(): Promise<ServerClock> {
  if (now() - askedAt < OLD_MS && Number.isFinite(known.doubt_ms)) return known;
  const exchanges: Exchange[] = [];
  for (let k = 0; k < EXCHANGES; k++) {
    const sent_ms = now();
    const { server_s } = unwrap(await client.GET("/api/live/clock"));
    exchanges.push({ sent_ms, server_ms: 1000 * server_s, got_ms: now() });
  }
  known = clockOf(exchanges);
  askedAt = now();
  return known;
}

/** How it stands, as far as is known by now. */
export function serverClock(): ServerClock {
  return Number.isFinite(known.doubt_ms) ? known : { offset_ms: 0, doubt_ms: 1000 };
}

/** An instant of this device, as the server's clock has it, with its doubt; `of` it is now. */
export function stamped(at_ms = now()): { at: string; doubt_ms: number; key: string } {
  const sure = Number.isFinite(known.doubt_ms);
  const key = Math.random().toString(36).slice(2, 14);
  return { at: new Date(at_ms + (sure ? known.offset_ms : 0)).toISOString(), doubt_ms: sure ? known.doubt_ms : 1000, key };
}
