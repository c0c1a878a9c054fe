import { useAgain } from "../api/again";
import type { Schemas } from "../api/client";
import { AgainBar } from "./AgainBar";
import { Problem } from "./state";

/** Figures that rest on less than is known by now, and the click that brings all of them to the same. */
export function Late({ late }: { late: Schemas["LateOut"] }) {
  const again = useAgain();
  if (late.late === 0 && !again.told) return null;
  const n = late.recordings.length;
  const lost = late.late - n;
  return (
    <section aria-label="Figures that are behind" role="alert" className="no-print mt-2 max-w-4xl border-l-4 border-buoy py-1 pl-3">
      {late.late > 0 && (
        <p>
          {late.late === late.of ? "All" : `${late.late} of ${late.of}`} {late.of === 1 ? "recording was" : "recordings were"} analysed before the newest calibration, body mass or analysis
          {late.late < late.of && ", so that old and new figures stand side by side here"}.
          {lost > 0 && ` ${lost} of them can’t be analysed again: their samples are no longer kept.`}
        </p>
      )}
      {n > 0 && !again.busy && (
        <button className="action mt-1 min-h-11" onClick={() => again.start(late.recordings)}>
          Analyse {n === 1 ? "it" : `all ${n}`} again ({lasts(late.about_s)})
        </button>
      )}
      <AgainBar told={again.told} cancel={again.cancel} />
      <Problem error={again.error} />
    </section>
  );
}

function lasts(seconds: number): string {
  return seconds < 90 ? `some ${Math.round(seconds / 5) * 5 || 5} seconds` : `some ${Math.round(seconds / 60)} minutes`;
}
