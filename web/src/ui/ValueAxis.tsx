import type { ScaleLinear } from "d3-scale";
import { convert, digits, type Measure } from "../format";
import { useUnits } from "./settings";

interface Props {
  y: ScaleLinear<number, number>;
  measure: Measure;
  left: number;
  width: number;
}

/** Hairlines across a drawing with the measure's figures before them, in the chosen system. */
export function ValueAxis({ y, measure, left, width }: Props) {
  const [units] = useUnits();
  return y.ticks(4).map((t) => {
    const [v, , decimals] = convert(t, measure.unit, measure.decimals, units);
    return (
      <g key={t}>
        <line x1={left} x2={width} y1={y(t)} y2={y(t)} stroke="var(--line)" />
        <text x={left - 8} y={y(t) + 4} fontSize={12} textAnchor="end" fill="var(--soft)">
          {digits(v, Number.isInteger(v) ? 0 : Math.max(decimals, 1))}
        </text>
      </g>
    );
  });
}
