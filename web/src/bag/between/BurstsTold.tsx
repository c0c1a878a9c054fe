import type { Schemas } from "../../api/client";

/** How fast, how even, whether the force lasted, and how many are worth it. */
export function BurstsTold({ told }: { told: Schemas["BurstsTold"] }) {
  const { best } = told;
  const last = best.places.at(-1);
  const fell = best.places.find((p) => p.place === best.falls_at);
  return (
    <div className="mt-3 text-xl" data-bursts>
      <p>
        <b>{told.bursts}</b> {told.bursts === 1 ? "burst" : "bursts"} of {told.strikes.toFixed(told.strikes % 1 ? 1 : 0)}, <b className="numeric">{told.rate_hz.toFixed(1)}</b> a second
        {told.rhythm_pct !== null && (
          <>
            , gaps even to <b className="numeric">{Math.round(told.rhythm_pct)} %</b>
          </>
        )}
        {told.force_kept_pct !== null && (
          <>
            , the last keeps <b className="numeric">{Math.round(told.force_kept_pct)} %</b> of the force
          </>
        )}
      </p>
      {best.number !== null && (
        <p className="mt-1">
          Best number so far: <b className="figure text-3xl">{best.number}</b>{" "}
          <span className="text-soft">
            {fell ? `the ${ordinal(fell.place)} keeps ${range(fell)}` : last ? `the ${ordinal(last.place)} keeps ${range(last)}` : ""}
          </span>
        </p>
      )}
      {best.number === null && fell && (
        <p className="mt-1">
          The {ordinal(fell.place)} falls off: it keeps {range(fell)}. Two good ones beat four loose ones.
        </p>
      )}
    </div>
  );
}

function range(p: { low_pct: number; high_pct: number }): string {
  return `${Math.round(p.low_pct)} to ${Math.round(p.high_pct)} %`;
}

function ordinal(n: number): string {
  return ["first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth"][n - 1] ?? `${n}th`;
}
