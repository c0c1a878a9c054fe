import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { convert, digits, unitOf, type Measure } from "../format";
import { useUnits } from "../ui/settings";
import { roundTicks } from "../ui/ticks";

const WIDTH = 384;
const HEIGHT = 104;
const MIDDLE = 46;

/** The difference with its 95 % interval, over the band that is too small to matter. */
export function IntervalPlot({ comparison, measure }: { comparison: Schemas["CompareOut"]; measure: Measure }) {
  const [units] = useUnits();
  const { claim, in_shares } = comparison;
  const told = in_shares ? claim.ci95_pct : claim.ci95;
  const value = in_shares ? claim.effect_pct : claim.effect;
  const first = claim.means[claim.levels[0]!];
  if (!told || value === null || claim.swc === null || told[0] === null || told[1] === null) return null;
  const worth = in_shares && first ? (100 * claim.swc) / Math.abs(first) : claim.swc;
  const [low, high] = told as [number, number];
  const most = 1.15 * Math.max(Math.abs(low), Math.abs(high), 1.6 * worth);
  const x = scaleLinear([-most, most], [24, WIDTH - 24]);
  const name = (v: number) => {
    const sign = v > 0 ? "+" : "";
    if (in_shares) return `${sign}${digits(v, 0)} %`;
    const [shown, unit, decimals] = convert(v, measure.unit, measure.decimals, units);
    return `${sign}${digits(shown, decimals)} ${unit}`;
  };
  const unit = in_shares ? "%" : measure.unit;
  const settled = claim.verdict === "clear" || claim.verdict === "likely";
  const ink = settled ? "var(--buoy)" : "var(--ink)";
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-md" role="img" aria-label={`Difference ${name(value)}, from ${name(low)} to ${name(high)}; too small to matter within ${name(worth)}`}>
      <rect x={x(-worth)} width={x(worth) - x(-worth)} y={20} height={52} fill="var(--shade)" />
      <text x={x(0)} y={13} fontSize={12} textAnchor="middle" fill="var(--soft)">
        too small to matter
      </text>
      {roundTicks(x, 5, unit, units).map(({ at, text }) => (
        <g key={at}>
          <line x1={x(at)} x2={x(at)} y1={20} y2={72} stroke={at === 0 ? "var(--ink)" : "var(--line)"} />
          <text x={x(at)} y={88} fontSize={12} textAnchor="middle" fill="var(--soft)">
            {at === 0 ? "0" : `${at > 0 ? "+" : ""}${text} ${in_shares ? "%" : unitOf(measure, units)}`}
          </text>
        </g>
      ))}
      <line x1={x(low)} x2={x(high)} y1={MIDDLE} y2={MIDDLE} stroke={ink} strokeWidth={6} strokeLinecap="round" />
      <circle cx={x(value)} cy={MIDDLE} r={8} fill="var(--ground)" stroke={ink} strokeWidth={3.5} />
    </svg>
  );
}
