import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, unwrap, type Schemas } from "../api/client";
import { say } from "../ui/toast";

export type Entry = Schemas["EntryOut"];
export type Content = Entry["content"];
export type Kind = Content["kind"];
export type Of<K extends Kind> = Extract<Content, { kind: K }>;

export function usePlaybook() {
  return useQuery({ queryKey: ["playbook"], staleTime: 60_000, queryFn: async () => unwrap(await client.GET("/api/playbook")) });
}

/** All that the playbook changes elsewhere: what is tapped, chosen and drilled. */
const READERS = [["playbook"], ["measures"], ["evening"], ["students"], ["strike-names"], ["drills-moved"]];

function useWritten() {
  const queries = useQueryClient();
  return () => Promise.all(READERS.map((queryKey) => queries.invalidateQueries({ queryKey })));
}

export function useSaveEntry() {
  const written = useWritten();
  return useMutation({
    mutationFn: async (body: Schemas["EntryIn"]) => unwrap(await client.POST("/api/playbook", { body })),
    onSuccess: written,
  });
}

/** An earlier version stands again; 0 is ours. */
export function usePutBack() {
  const written = useWritten();
  return useMutation({
    mutationFn: async (body: Schemas["BackIn"]) => unwrap(await client.POST("/api/playbook/back", { body })),
    onSuccess: written,
    onError: (error) => say({ text: error.message }),
  });
}

/** It is no longer there to be chosen; the toast takes that back. */
export function useTakeOff() {
  const written = useWritten();
  const back = usePutBack();
  return useMutation({
    mutationFn: async ({ kind, key, version }: Entry) => unwrap(await client.POST("/api/playbook/off", { body: { kind, key, version } })),
    onSuccess: async (now, before) => {
      await written();
      const to = before.version;
      say({ text: `“${now.content.name}” is off the playbook.`, back: () => back.mutate({ kind: now.kind, key: now.key, to, version: now.version }) });
    },
    onError: (error) => say({ text: error.message }),
  });
}

export function useVersions(kind: string, key: string) {
  return useQuery({
    queryKey: ["playbook", kind, key],
    queryFn: async () => unwrap(await client.GET("/api/playbook/versions", { params: { query: { kind, key } } })),
  });
}

/** What a new entry of a kind begins as. */
export const BLANK: { [K in Kind]: Of<K> } = {
  strike: { kind: "strike", name: "", parts: [], weight: "", ends: "", mistakes: [], measures: [], care: "", lead_turn_deg: 0, rear_turn_deg: 0, lead_weight_pct: 50 },
  factor: { kind: "factor", name: "", levels: [] },
  drill: { kind: "drill", name: "", steps: [], dose: "", care: "", children: true, kit: "", go_on: "Ten in a row are clean." },
  sign: { kind: "sign", name: "", drill: "", measure: "", low: false, edge: null, step: 1, strikes: [], remarks: [] },
  remarks: { kind: "remarks", name: "", words: [] },
  point: { kind: "point", name: "", look_for: "", mistake: "", measures: [] },
};
