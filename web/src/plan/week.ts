import { useIsMutating, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";
import { say } from "../ui/toast";

export type Plan = Schemas["PlannedWeek"];
export type Part = Schemas["PlannedPart"];
export type Wish = Schemas["WishIn"];

export const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** The week of a Monday; this one where none is named. */
export function usePlannedWeek(studentId: number, monday: string | null) {
  return useQuery({
    queryKey: ["plan", studentId, monday],
    queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/plan", { params: { path: { student_id: studentId }, query: { monday } } })),
  });
}

/** Changes of one student's plan go one after the other: what is repeated is the week that was asked for just before. */
const inTurn = (studentId: number) => ({ mutationKey: ["plan", studentId], scope: { id: `plan ${studentId}` } });

/** A change of the plan that was asked for has not come back yet. */
export function useChanging(studentId: number): boolean {
  return useIsMutating({ mutationKey: inTurn(studentId).mutationKey }) > 0;
}

/** A change that the server answers with the week as it is then. */
function useChange<What>(studentId: number, send: (what: What) => Promise<Plan>) {
  const queries = useQueryClient();
  return useMutation({
    ...inTurn(studentId),
    mutationFn: send,
    onSuccess: (week) => {
      for (const [key, was] of queries.getQueriesData<Plan>({ queryKey: ["plan", studentId] })) if (was?.monday === week.monday) queries.setQueryData(key, week);
    },
    onError: (error) => {
      say({ text: error.message });
      void queries.invalidateQueries({ queryKey: ["plan", studentId] });
    },
  });
}

export function usePropose(studentId: number) {
  return useChange(studentId, async (body: Schemas["PlannedWeekIn"]) => unwrap(await client.PUT("/api/students/{student_id}/plan", { params: { path: { student_id: studentId } }, body })));
}

interface Put {
  id: number;
  day: number;
  version: number; // of the week that was shown
  copy?: boolean;
}

async function put({ id, day, version, copy }: Put) {
  const body = { params: { path: { part_id: id } }, body: { day, version } };
  return unwrap(copy ? await client.POST("/api/plan-parts/{part_id}/copy", body) : await client.PUT("/api/plan-parts/{part_id}", body));
}

/** To another evening, or once more on one. */
export function usePutPart(studentId: number) {
  return useChange(studentId, put);
}

/** The same on the board of the class. */
export function usePutOnBoard() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: put,
    onError: (error) => say({ text: error.message }),
    onSettled: () => queries.invalidateQueries({ queryKey: ["plan"] }),
  });
}

export function useDropPart(studentId: number) {
  return useChange(studentId, async ({ id, version }: { id: number; version: number }) => unwrap(await client.DELETE("/api/plan-parts/{part_id}", { params: { path: { part_id: id }, query: { version } } })));
}

export function useUnseen(studentId: number) {
  return useChange(studentId, async (body: Schemas["UnseenIn"]) => unwrap(await client.PUT("/api/students/{student_id}/plan/unseen", { params: { path: { student_id: studentId } }, body })));
}

/** The same wishes in the weeks that follow. */
export function useRepeat(studentId: number) {
  const queries = useQueryClient();
  return useMutation({
    ...inTurn(studentId),
    mutationFn: async (body: Schemas["RepeatIn"]) => unwrap(await client.POST("/api/students/{student_id}/plan/repeat", { params: { path: { student_id: studentId } }, body })),
    onSuccess: ({ changed }) => say({ text: changed ? `Planned ${changed} ${changed === 1 ? "week" : "weeks"} more, each by what is known.` : "The weeks that follow are planned already: nothing was changed." }),
    onError: (error) => say({ text: error.message }),
    onSettled: () => queries.invalidateQueries({ queryKey: ["plan", studentId] }),
  });
}

/** A calendar's word on the week. */
export function useCalendar(studentId: number, monday: string) {
  const queries = useQueryClient();
  return useMutation({
    ...inTurn(studentId),
    mutationFn: async (file: File) => {
      const body = new FormData();
      body.append("file", file);
      return unwrap(await client.POST("/api/students/{student_id}/plan/calendar", { params: { path: { student_id: studentId }, query: { monday } }, body: body as never }));
    },
    onSuccess: ({ moved, busy, away, came, untimed }) => {
      const taken = busy.length ? `${busy.map((d) => DAYS[d]).join(", ")} ${busy.length === 1 ? "is" : "are"} taken there, and not free any more` : "nothing else takes an evening";
const days = (some: number[]) => some.map((d) => DAYS[d]).join(", ");
      const parts = [
        `${moved ? `${moved} ${moved === 1 ? "evening was" : "evenings were"} moved as in the calendar; ` : "No evening was moved; "}${taken}.`,
        away.length ? `${days(away)} lies in another week there: it stays here until you move it.` : "",
        came.length ? `On ${days(came)} an evening of another week lies there: it stays in its own week until you move it.` : "",
        untimed.length ? `These say no time and were left out: ${untimed.join("; ")}.` : "",
      ];
      say({ text: parts.filter(Boolean).join(" ") });
    },
    onError: (error) => say({ text: error.message }),
    onSettled: () => queries.invalidateQueries({ queryKey: ["plan", studentId] }),
  });
}

/** Tonight's sets from the plan. */
export function useTonight(studentId: number) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/students/{student_id}/plan/tonight", { params: { path: { student_id: studentId } } })),
    onSettled: () => Promise.all([["tonight"], ["evening"], ["take"]].map((queryKey) => queries.invalidateQueries({ queryKey }))),
  });
}

/** What stands above the board: evenings, strikes, and who gets something back. */
export function headline(week: Plan): string {
  const evenings = new Set(week.parts.map((p) => p.day)).size;
  if (evenings === 0) return "Nothing is planned yet.";
  const many = ["No", "One", "Two", "Three", "Four", "Five", "Six", "Seven"][evenings]!;
  const parts = [`${many} ${evenings === 1 ? "evening" : "evenings"}${week.planned ? `, ${week.planned} strikes` : ""}.`];
  for (const [kind, owed, name] of [["hands", week.owed_hands, "hand"], ["kicks", week.owed_kicks, "leg"]] as const) {
    const own = week.parts.filter((p) => p.kind === kind);
    const back = Math.min(Math.abs(owed), Math.abs(own.reduce((sum, p) => sum + p.left - p.right, 0)));
    if (back > 0) parts.push(`The ${owed > 0 ? "right" : "left"} ${name} gets ${back} back.`);
  }
  return parts.join(" ");
}
