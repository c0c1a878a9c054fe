import { useEffect, useRef, useState } from "react";
import { PAPER_WIDTH, usePrinting } from "./printing";

/** The width of an element as it is laid out, so that a drawing fits it. */
export function useWidth<E extends HTMLElement>(first: number) {
  const ref = useRef<E>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.round(entry.contentRect.width)));
    if (ref.current) watch.observe(ref.current);
    return () => watch.disconnect();
  }, []);
  return [ref, usePrinting() ? Math.min(width, PAPER_WIDTH) : width] as const;
}
