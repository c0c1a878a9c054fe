import { useCallback, useEffect, useMemo, useRef } from "react";
import { useSearchParams } from "react-router";

export type Told = string | number | boolean | string[] | undefined;

/** The parameters with a part of them changed; what is empty leaves the address. */
export function changed(old: URLSearchParams, part: Record<string, Told>): URLSearchParams {
  const next = new URLSearchParams(old);
  for (const [key, value] of Object.entries(part)) {
    const text = Array.isArray(value) ? value.join(".") : value === true ? "1" : value === false ? "" : String(value ?? "");
    if (text) next.set(key, text);
    else next.delete(key);
  }
  return next;
}

/** What was asked of the address and has not come yet: changes come faster than the page is drawn, and none may be lost. */
export class Asked {
  private wanted: string[] = [];
  private now: URLSearchParams;

  constructor(now: URLSearchParams) {
    this.now = now;
  }

  /** The address with one change more. */
  ask(part: Record<string, Told>): URLSearchParams {
    this.now = changed(this.now, part);
    this.wanted.push(this.now.toString());
    return this.now;
  }

  /** The address came: one that was asked for, perhaps not the last, or another page's. */
  came(params: URLSearchParams): void {
    const at = this.wanted.indexOf(params.toString());
    if (at >= 0) this.wanted.splice(0, at + 1);
    else this.wanted = [];
    if (this.wanted.length === 0) this.now = params;
  }
}

/** What of a page is in its address, and the way to change a part of it. */
export function useAddress<V extends object>(read: (params: URLSearchParams) => V): [V, (part: { [K in keyof V]?: Told }) => void] {
  const [params, setParams] = useSearchParams();
  const asked = useRef<Asked>(null);
  asked.current ??= new Asked(params);
  useEffect(() => asked.current!.came(params), [params]);
  const view = useMemo(() => read(params), [params, read]);
  const change = useCallback((part: { [K in keyof V]?: Told }) => setParams(asked.current!.ask(part as Record<string, Told>), { replace: true }), [setParams]);
  return [view, change];
}
