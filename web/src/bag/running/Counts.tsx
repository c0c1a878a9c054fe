import { sides } from "../heard/marks";
import type { Struck } from "../heard/take";

const MOST_DOTS = 14;

/** How many of the set, and of each side. */
export function Counts({ strikes, wanted }: { strikes: Struck[]; wanted: number | null }) {
  const n = strikes.length;
  const { left, right } = sides(strikes);
  return (
    <div>
      <p className="text-lg">
        <b className="figure text-3xl">{n}</b>
        {wanted ? <span className="text-soft"> of {wanted}</span> : null}
        {left > 0 && right > 0 && (
          <span className="numeric ml-4 text-soft">
            left {left}, right {right}
          </span>
        )}
      </p>
      {wanted !== null && wanted <= MOST_DOTS && (
        <div className="mt-2 flex flex-wrap gap-2" aria-hidden="true">
          {Array.from({ length: Math.max(wanted, n) }, (_, k) => (
            <span key={k} className={`size-6 rounded-full border-3 ${k < n ? (k < wanted ? "border-ink bg-ink" : "border-buoy bg-buoy") : "border-line"}`} />
          ))}
        </div>
      )}
    </div>
  );
}
