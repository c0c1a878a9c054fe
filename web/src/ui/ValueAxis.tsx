import type { ScaleLinear } from "d3-scale";
import type { Measure } from "../format";
import { useUnits } from "./settings";
import { roundTicks } from "./ticks";

interface Props {
  y: ScaleLinear<number, number>;
  measure: Measure;
  left: number;
  width: number;
}

/** Hairlines across a drawing with the measure's figures before them, in the chosen system. */
export function ValueAxis({ y, measure, left, width }: Props) {
  const [units] = useUnits();
  return roundTicks(y, 4, measure.unit, units).map(({ at, text }) => (
    <g key={at}>
      <line x1={left} x2={width} y1={y(at)} y2={y(at)} stroke="var(--line)" />
      <text x={left - 8} y={y(at) + 4} fontSize={12} textAnchor="end" fill="var(--soft)">
        {text}
      </text>
    </g>
  ));
}
