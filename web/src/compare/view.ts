import { useCallback, useMemo } from "react";
import { useSearchParams } from "react-router";

/** What of the compare page is in its address. */
export interface View {
  trial: number | undefined;
  everybody: boolean;
  measure: string;
  levels: string;
  worth: number | undefined;
  only: string;
}

export function useView(): [View, (change: Partial<Record<keyof View, string | undefined>>) => void] {
  const [params, setParams] = useSearchParams();
  const view = useMemo<View>(() => {
    const number = (key: string) => (params.get(key) ? Number(params.get(key)) : undefined);
    return {
      trial: number("trial"),
      everybody: params.get("everybody") === "1",
      measure: params.get("measure") ?? "",
      levels: params.get("levels") ?? "",
      worth: number("worth"),
      only: params.get("only") ?? "",
    };
  }, [params]);
  const change = useCallback(
    (part: Partial<Record<keyof View, string | undefined>>) =>
      setParams(
        (old) => {
          const next = new URLSearchParams(old);
          for (const [key, value] of Object.entries(part)) {
            if (value) next.set(key, value);
            else next.delete(key);
          }
          return next;
        },
        { replace: true },
      ),
    [setParams],
  );
  return [view, change];
}
