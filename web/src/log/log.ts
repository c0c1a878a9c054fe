import { keepPreviousData, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";
import { say } from "../ui/toast";

export type Line = Schemas["LogLine"];

/** What of the log is shown; all of it is in the address. */
export interface LogView {
  student: number | null;
  show: string[];
  text: string;
  since: string;
  until: string;
}

export function readView(params: URLSearchParams): LogView {
  return {
    student: params.get("student") ? Number(params.get("student")) : null,
    show: params.get("show")?.split(".") ?? [],
    text: params.get("text") ?? "",
    since: params.get("since") ?? "",
    until: params.get("until") ?? "",
  };
}

const PAGE = 60; //: lines, as the server turns them over

const asked = (v: LogView, skip = 0) => ({ student: v.student, show: v.show.join("."), text: v.text, since: v.since || null, until: v.until || null, skip });

export function useLog(view: LogView) {
  return useInfiniteQuery({
    queryKey: ["log", view],
    initialPageParam: 0,
    placeholderData: keepPreviousData,
    queryFn: async ({ pageParam, signal }) => unwrap(await client.GET("/api/log", { signal, params: { query: asked(view, pageParam) } })),
    getNextPageParam: (last, _all, skipped) => (last.more ? skipped + PAGE : undefined),
  });
}

/** The address of the same lines as CSV. */
export function csvOf(view: LogView): string {
  const params = new URLSearchParams();
  for (const [key, value] of Object.entries(asked(view))) if (value) params.set(key, String(value));
  return `/api/log.csv?${params}`;
}

export function useBefore(of: string, key: number) {
  return useQuery({
    queryKey: ["log", "before", of, key],
    queryFn: async () => unwrap(await client.GET("/api/log/{of}/{key}/before", { params: { path: { of, key } } })),
  });
}

/** What rests on a mark: the log itself, weeks, the plan, and tonight's cautions. */
export const RESTS = ["log", "weeks", "plan", "tonight", "evening", "trials", "class"];

/** `done` hears of it also when the line that asked is gone by then. */
function useDeed<What, Made>(send: (what: What) => Promise<Made>, done?: (what: What) => void, failed?: (error: Error) => void) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: send,
    onSuccess: (_, what) => done?.(what),
    onError: (error) => failed?.(error),
    onSettled: () => Promise.all(RESTS.map((key) => queries.invalidateQueries({ queryKey: [key] }))),
  });
}

const refuse = (error: Error) => say({ text: error.message });

export function useWrite() {
  return useDeed(async (body: Schemas["NoteTextIn"]) => unwrap(await client.POST("/api/log/notes", { body })));
}

export function useReword() {
  return useDeed(async ({ id, ...body }: { id: number } & Schemas["RewordIn"]) => unwrap(await client.PUT("/api/log/notes/{note_id}", { params: { path: { note_id: id } }, body })));
}

/** Take a note away, with the way back. */
export function useTakeAway() {
  const deed: { mutate: (what: { id: number; gone: boolean }) => void } = useDeed(
    async ({ id, gone }: { id: number; gone: boolean }) => unwrap(await client.PUT("/api/log/notes/{note_id}/gone", { params: { path: { note_id: id } }, body: { gone } })),
    ({ id, gone }) => say(gone ? { text: "The note was taken away.", back: () => deed.mutate({ id, gone: false }) } : { text: "The note is back." }),
    refuse,
  );
  return (id: number) => deed.mutate({ id, gone: true });
}

/** Note that something hurts; it stops what it stops until it is cleared. */
export function usePain() {
  return useDeed(async ({ student, since, text }: { student: number; since: string; text: string }) =>
    unwrap(await client.POST("/api/students/{student_id}/marks", { params: { path: { student_id: student } }, body: { kind: "injury", since, until: null, text } })),
  );
}

/** It is over, with the way back. */
export function useClear() {
  const deed: { mutate: (what: { id: number; until: string | null; what: string }) => void } = useDeed(
    async ({ id, until }: { id: number; until: string | null; what: string }) => unwrap(await client.POST("/api/marks/{mark_id}/over", { params: { path: { mark_id: id } }, body: { until } })),
    ({ id, until, what }) => say(until ? { text: `Cleared: ${what}.`, back: () => deed.mutate({ id, until: null, what }) } : { text: `Not over after all: ${what}.` }),
    refuse,
  );
  return (id: number, until: string, what: string) => deed.mutate({ id, until, what });
}

/** Lines under their days, in their order. */
export function byDay(lines: Line[]): [string, Line[]][] {
  const days: [string, Line[]][] = [];
  for (const line of lines) {
    const last = days.at(-1);
    if (last?.[0] === line.day) last[1].push(line);
    else days.push([line.day, [line]]);
  }
  return days;
}
