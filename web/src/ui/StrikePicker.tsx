import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { client, unwrap } from "../api/client";
import { familyName, plannedName } from "../format";
import { ADDING } from "./adding";
import { say } from "./toast";
import { Picker, type Pick } from "./Picker";

export function useStrikeNames() {
  return useQuery({ queryKey: ["strike-names"], staleTime: 60_000, queryFn: async () => unwrap(await client.GET("/api/strike-names")) });
}

/** What a strike, or a family of them from either side, is called by its code: as the gym knows it, else as near as the
 * code says. */
export function useStrikeName(): (code: string) => string {
  const known = useStrikeNames();
  return useMemo(() => {
    const names = new Map((known.data ?? []).map((s) => [s.code, s.name]));
    const family = (code: string) => [...names].find(([known]) => known.startsWith(`rear-${code}-`))?.[1].split(",")[0];
    return (code) => names.get(code) ?? (names.get(`rear-${code}`) ?? family(code))?.replace(/^rear /, "") ?? code.replaceAll("-", " ");
  }, [known.data]);
}

/** What a planned set is headed with. */
export function usePlannedName(): (planned: string) => string {
  const nameOf = useStrikeName();
  return useCallback((planned) => plannedName(planned, nameOf), [nameOf]);
}

/** Strikes of a family from both sides, as counts name them. */
export function useFamilyName(): (family: string) => string {
  const nameOf = useStrikeName();
  return useCallback((family) => familyName(family, nameOf), [nameOf]);
}

/** The same as text. */
export function StrikeName({ code }: { code: string }) {
  return <>{useStrikeName()(code)}</>;
}

/** How each kind of strike travels, seen from the side: the fist or foot comes from the left. */
const PATHS: Record<string, string> = {
  straight: "M3 10H16M12 6l4 4-4 4",
  across: "M3 13C5 4 14 3 16 10M12 8l4 3 2-5",
  up: "M4 5C4 14 9 17 14 15L14 5M10 8l4-4 4 4",
  over: "M3 13C5 3 13 2 15 13M11 11l4 4 3-5",
  back: "M16 6C8 3 4 8 5 14M2 10l3 5 5-3",
  screwed: "M3 10H16M12 6l4 4-4 4M5 6c3-2 4 8 7 7",
};

/** A strike's path; `told` where it stands for itself. */
export function StrikePath({ path, family, className = "size-6", told }: { path: string; family: string; className?: string; told?: string }) {
  const drawn = PATHS[path];
  return (
    <svg viewBox="0 0 20 20" className={`${className} shrink-0 text-oar`} {...(told ? { role: "img", "aria-label": told } : { "aria-hidden": true })}>
      {drawn ? <path d={drawn} fill="none" stroke="currentColor" strokeWidth={family === "kick" ? 2.6 : 1.6} strokeLinejoin="round" strokeLinecap="round" /> : <circle cx="10" cy="10" r="3" fill="currentColor" />}
    </svg>
  );
}

interface Props {
  label?: string;
  value: string;
  onChange: (code: string) => void;
  autoFocus?: boolean;
}

/** One of the gym's strikes, by any name that coaches have for it; a new one only by adding it to the gym. */
export function StrikePicker({ label = "Strike", value, onChange, autoFocus }: Props) {
  const known = useStrikeNames();
  const queries = useQueryClient();
  const add = useMutation({
    mutationKey: ADDING,
    mutationFn: async (name: string) => unwrap(await client.POST("/api/strike-names", { body: { name } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ["strike-names"] });
      say({ text: `“${made.name}” is a strike of this gym.` });
      onChange(made.code);
    },
    onError: (error) => say({ text: error.message }),
  });
  const picks = useMemo<Pick[]>(() => {
    const all = (known.data ?? []).map((s) => ({ value: s.code, name: s.name, also: s.also, picture: <StrikePath path={s.path} family={s.family} /> }));
    // one that a recording brought along, which nobody has added
    return value === "" || all.some((p) => p.value === value) ? all : [...all, { value, name: value.replaceAll("-", " "), also: [], picture: <StrikePath path="" family="" /> }];
  }, [known.data, value]);
  return <Picker label={label} value={value} picks={picks} onChange={onChange} add={known.data && ((name) => add.mutate(name))} none={known.error?.message ?? (known.data ? undefined : "The strikes are on their way.")} adding="Add … to our gym" autoFocus={autoFocus} required />;
}
