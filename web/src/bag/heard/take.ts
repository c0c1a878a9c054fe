import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { client, unwrap } from "../../api/client";
import { useConnected, useLive, type KitState } from "./events";
import { now } from "./clock";
import { behindInWords } from "./kit";
import { caughtUp, stationWith, whatBecame, type Heard, type StrikeEvent } from "./marks";
import type { Nobodys, Station, Take } from "./shapes";

export type { Coming, Mark, Struck, Take } from "./shapes";

export function useStations() {
  const queries = useQueryClient();
  const stations = useQuery({ queryKey: ["stations"], queryFn: async () => unwrap(await client.GET("/api/stations")) });
  useLive((event) => {
    if (event.kind === "kit") return;
    const rows = queries.getQueryData<Station[]>(["stations"]);
    const row = event.kind === "strike" ? rows?.find((s) => s.id === event.station) : undefined;
    const after = row && stationWith(row, event);
    if (rows && after) queries.setQueryData(["stations"], rows.map((s) => (s === row ? after : s)));
    else void queries.invalidateQueries({ queryKey: ["stations"] });
  });
  return stations;
}

export function useTonight() {
  return useQuery({ queryKey: ["tonight"], queryFn: async () => unwrap(await client.GET("/api/tonight")) });
}

const KEPT = 60; // strikes that were heard of last: an answer that was made before them is brought up to them

/** The take that is open at a station, kept up with what happens there. */
export function useTake(stationId: number | null) {
  const queries = useQueryClient();
  const key = ["take", stationId];
  const heard = useRef<Heard[]>([]);
  const take = useQuery({
    queryKey: key,
    enabled: stationId !== null,
    queryFn: async () => {
      const asked = now();
      const page = await client.GET("/api/stations/{station_id}/take", { params: { path: { station_id: stationId! } } }).then(unwrapNull);
      return page ? caughtUp(page, heard.current, asked) : null;
    },
  });
  useLive((event) => {
    if (event.kind === "again") void queries.invalidateQueries({ queryKey: key });
    if (event.station !== stationId || event.kind === "kit") return;
    if (event.kind === "strike") heard.current = [...heard.current, { at: now(), event }].slice(-KEPT);
    const before = queries.getQueryData<Take | null>(key);
    if (event.kind === "strike" && before && event.take === before.id) queries.setQueryData<Take | null>(key, whatBecame(before, event as StrikeEvent));
    else void queries.invalidateQueries({ queryKey: key });
  });
  return take;
}

function unwrapNull<T>(answer: { data?: T; error?: unknown; response: Response }): T | null {
  return answer.response.ok ? (answer.data ?? null) : unwrap(answer);
}

/** How each unit of a station does, as the live worker last said. */
export function useKit(stationId: number | null): Record<string, KitState> {
  const [kit, setKit] = useState<Record<string, KitState>>({});
  useLive((event) => {
    if (event.kind === "kit" && event.station === stationId && event.units) setKit(event.units);
  });
  return kit;
}

const PATIENT_MS = 4000; // a screen that just opened has heard nothing yet

/** Whether no unit of a station was ever heard of, once there was time for it. */
export function useMissing(stationId: number): boolean {
  const kit = useKit(stationId);
  const [patient, setPatient] = useState(true);
  useEffect(() => {
    const timer = setTimeout(() => setPatient(false), PATIENT_MS);
    return () => clearTimeout(timer);
  }, []);
  const connected = useConnected();
  const units = Object.values(kit);
  return connected && !patient && units.every((u) => u.silent_s === null);
}

/** How far measuring is behind at a station, in words. */
export function useBehind(stationId: number): string {
  const [lagS, setLagS] = useState(0);
  const [unheardMs, setUnheardMs] = useState(0);
  const last = useRef<number | null>(null);
  useLive((event) => {
    if (event.kind !== "kit" || event.station !== stationId) return;
    last.current = Date.now();
    setLagS(event.lag_s ?? 0);
    setUnheardMs(0);
  });
  useEffect(() => {
    const timer = setInterval(() => setUnheardMs(last.current === null ? 0 : Date.now() - last.current), 2000);
    return () => clearInterval(timer);
  }, []);
  return behindInWords(lagS, unheardMs);
}

/** Blows at a station while nobody was said to stand there, as the live worker last said. */
export function useNobodys(stationId: number): Nobodys | null {
  const [blows, setBlows] = useState<Nobodys | null>(null);
  useLive((event) => {
    if (event.kind === "kit" && event.station === stationId) setBlows(event.nobodys ?? null);
  });
  return blows;
}

export function useUsual(takeId: number | undefined, code: string | undefined) {
  return useQuery({
    queryKey: ["usual", takeId, code],
    enabled: takeId !== undefined && !!code,
    staleTime: 10 * 60_000,
    queryFn: async () => unwrap(await client.GET("/api/takes/{take_id}/usual", { params: { path: { take_id: takeId! }, query: { code: code! } } })),
  });
}

/** A simulated student at a bag of their own; the station's id. */
export function useSimulated() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ bagId, speed }: { bagId: number; speed: number }) =>
      unwrap(await client.POST("/api/simulated-stations", { body: { bag_id: bagId, speed, minutes: 60 } })).changed,
    onSuccess: () => queries.invalidateQueries({ queryKey: ["stations"] }),
  });
}
