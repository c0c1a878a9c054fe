import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef, useState } from "react";
import { say } from "../ui/toast";
import { client, unwrap, type Schemas } from "../api/client";

type Strikes = Schemas["Strikes"];
export type LabelText = Omit<Schemas["LabelIn"], "ids" | "versions">;
type Was = Omit<Schemas["Before"], "version">;

/** What a coach does to strikes, by their places on the page: each says what was done, with the way back. */
export interface StrikeEditing {
  exclude: (place: number, reason: string | null) => void;
  label: (from: number, to: number, text: LabelText) => void;
  name: (ids: number[]) => void; //: as each of them looks like
  remark: (place: number, what: string) => void; //: said again, it is taken back
  note: (id: number, text: string, version: number) => void;
  undo: () => void; //: the last exclusion or label
  problem: Error | null; //: of the last thing that was tried; the next one clears it
  dismiss: () => void;
}

/** The four verbs on the strikes of one recording, and undo. Each is sent with the versions that the page shows, so that nothing another coach said meanwhile is overwritten; the page shows it at once and goes back if the server refuses. */
export function useStrikeEditing(recordingId: number, strikes: Strikes): StrikeEditing {
  const queries = useQueryClient();
  const [problem, setProblem] = useState<Error | null>(null);
  const key = useMemo(() => ["recordings", recordingId, "strikes"], [recordingId]);

  const { mutate } = useMutation({
    mutationKey: key,
    scope: { id: key.join(" ") }, // one after the other: the second is sent with the version that the first makes
    mutationFn: ({ send }: Step) => send(),
    onMutate: async ({ show }: Step) => {
      setProblem(null);
      await queries.cancelQueries({ queryKey: key });
      const before = queries.getQueryData<Strikes>(key);
      if (before && show) queries.setQueryData(key, show(before));
      return { before };
    },
    onError: (error, _step, context) => {
      setProblem(error);
      say(null); // nothing was done, so there is nothing to undo
      if (context?.before) queries.setQueryData(key, context.before);
    },
    onSettled: () => {
      if (queries.isMutating({ mutationKey: key }) <= 1) void queries.invalidateQueries({ queryKey: key });
    },
  });

  const seen = useCallback((ids: number[]) => ({ ids, versions: versionsOf(queries.getQueryData<Strikes>(key), ids) }), [queries, key]);

  const exclude = useCallback(
    (ids: number[], reason: string | null) => {
      const body = seen(ids);
      mutate({
        send: async () =>
          reason === null
            ? unwrap(await client.POST("/api/strikes/restore", { body }))
            : unwrap(await client.POST("/api/strikes/exclude", { body: { ...body, reason } })),
        show: (s) => changed(s, ids, (i) => ({ excluded: reason ?? "", version: s.version[i]! + Number(!!s.excluded[i] !== !!reason) })),
      });
    },
    [mutate, seen],
  );
  const putBack = useCallback(
    (before: Was[]) => {
      const ids = before.map((b) => b.id);
      const { versions } = seen(ids);
      const strikes = before.map((b, i) => ({ ...b, version: versions[i]! }));
      mutate({ send: async () => unwrap(await client.POST("/api/strikes/label/undo", { body: { strikes } })), show: (s) => raised(s, ids) });
    },
    [mutate, seen],
  );

  const back = useRef<() => void>(() => {});
  const done = useCallback((text: string, undo: () => void) => {
    back.current = () => {
      back.current = () => {};
      say(null);
      undo();
    };
    say({ text, back: () => back.current() });
  }, []);

  return useMemo<StrikeEditing>(
    () => ({
      exclude: (place, reason) => {
        const id = strikes.id[place]!;
        const was = strikes.excluded[place] || null;
        exclude([id], reason);
        const number = strikes.number[place];
        done(reason === null ? `Strike ${number} counts again.` : `Strike ${number} thrown out: ${reason}.`, () => exclude([id], was));
      },
      label: (from, to, text) => {
        const before = strikes.id.slice(from, to + 1).map((id, k) => ({ id, set_id: strikes.set_id[from + k] ?? null, limb: strikes.limb[from + k]! }));
        const ids = before.map((b) => b.id);
        const body = { ...text, ...seen(ids) };
        mutate({ send: async () => unwrap(await client.POST("/api/strikes/label", { body })), show: (s) => raised(s, ids) });
        done(`${before.length === 1 ? "Strike" : `${before.length} strikes`} labelled ${text.code}.`, () => putBack(before));
      },
      name: (ids) => {
        const places = ids.map((id) => strikes.id.indexOf(id));
        const before = places.map((i) => ({ id: strikes.id[i]!, set_id: null, limb: strikes.limb[i]! }));
        const body = seen(ids);
        mutate({ send: async () => unwrap(await client.POST("/api/strikes/names", { body })), show: (s) => raised(s, ids) });
        done(`${ids.length === 1 ? "Strike" : `${ids.length} strikes`} named.`, () => putBack(before));
      },
      remark: (place, what) => {
        const id = strikes.id[place]!;
        const on = !strikes.remarks[place]!.includes(what);
        mutate({
          send: async () => unwrap(await client.POST("/api/strikes/{strike_id}/remarks", { params: { path: { strike_id: id } }, body: { what, on } })),
          show: (s) => ({ ...s, remarks: s.remarks.map((r, i) => (s.id[i] !== id ? r : on ? [...r.filter((w) => w !== what), what] : r.filter((w) => w !== what))) }),
        });
      },
      note: (id, text, version) =>
        mutate({ send: async () => unwrap(await client.PUT("/api/strikes/{strike_id}/note", { params: { path: { strike_id: id } }, body: { text, version } })), show: (s) => raised(s, [id]) }),
      undo: () => back.current(),
      problem,
      dismiss: () => setProblem(null),
    }),
    [strikes, exclude, putBack, mutate, seen, done, problem],
  );
}

interface Step {
  send: () => Promise<unknown>;
  show?: (strikes: Strikes) => Strikes;
}

/** Versions of strikes as the page shows them. */
export function versionsOf(strikes: Pick<Strikes, "id" | "version"> | undefined, ids: number[]): number[] {
  const known = new Map(strikes?.id.map((id, i) => [id, strikes.version[i]!]));
  return ids.map((id) => known.get(id) ?? 0);
}

function raised(s: Strikes, ids: number[]): Strikes {
  const chosen = new Set(ids);
  return { ...s, version: s.version.map((v, i) => (chosen.has(s.id[i]!) ? v + 1 : v)) };
}

function changed(s: Strikes, ids: number[], part: (i: number) => { excluded: string; version: number }): Strikes {
  const chosen = new Set(ids);
  const next = s.id.map((id, i) => (chosen.has(id) ? part(i) : { excluded: s.excluded[i]!, version: s.version[i]! }));
  return { ...s, excluded: next.map((n) => n.excluded), version: next.map((n) => n.version) };
}
