import { useEffect, useState } from "react";
import { flushSync } from "react-dom";

/** What a drawing may be wide on paper, A4 or Letter, upright. */
export const PAPER_WIDTH = 680;

/** Whether the page is being laid out for paper: what was drawn to the screen's width is drawn anew, at once. */
export function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    const begin = () => flushSync(() => setPrinting(true));
    const end = () => flushSync(() => setPrinting(false));
    window.addEventListener("beforeprint", begin);
    window.addEventListener("afterprint", end);
    return () => {
      window.removeEventListener("beforeprint", begin);
      window.removeEventListener("afterprint", end);
    };
  }, []);
  return printing;
}
