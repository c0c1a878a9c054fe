import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { digits } from "../format";

const WIDTH = 196;
const HEIGHT = 24;

/** An effect with its interval, on the scale that all rows share. */
export function SmallInterval({ told, most }: { told: Schemas["SummaryOut"]; most: number }) {
  const { ci95_pct, effect_pct, verdict } = told.claim;
  if (!ci95_pct || effect_pct === null) return null;
  const x = scaleLinear([-most, most], [4, WIDTH - 4]).clamp(true);
  const ink = verdict === "clear" || verdict === "likely" ? "var(--buoy)" : "var(--ink)";
  const [low, high] = [ci95_pct[0] ?? 0, ci95_pct[1] ?? 0];
  return (
    <svg width={WIDTH} height={HEIGHT} role="img" aria-label={`from ${digits(low, 0)} to ${digits(high, 0)} per cent`}>
      <line x1={x(0)} x2={x(0)} y1={0} y2={HEIGHT} stroke="var(--ink)" />
      <line x1={x(low)} x2={x(high)} y1={12} y2={12} stroke={ink} strokeWidth={4} strokeLinecap="round" />
      <circle cx={x(effect_pct)} cy={12} r={5} fill="var(--ground)" stroke={ink} strokeWidth={2.5} />
    </svg>
  );
}
