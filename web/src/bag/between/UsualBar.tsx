import { scaleLinear } from "d3-scale";
import { convert, digits, type Measure, type System } from "../../format";
import type { Schemas } from "../../api/client";

const WIDTH = 300;
const HEIGHT = 76;
const MIDDLE = 28;

interface Props {
  measure: Measure;
  usual: Schemas["Usual"];
  values: number[]; //: of this set, in order
  side: string;
  units: System;
}

/** Where most of this student's strikes lie, the set's mean as a bar, and the last one as a mark. */
export function UsualBar({ measure, usual, values, side, units }: Props) {
  const span = usual.high - usual.low;
  const last = values.at(-1);
  const mean = values.length ? values.reduce((a, b) => a + b, 0) / values.length : undefined;
  const low = Math.min(usual.low - 0.6 * span, ...values);
  const high = Math.max(usual.high + 0.6 * span, ...values);
  const x = scaleLinear([low, high], [12, WIDTH - 12]);
  const whole = Math.abs(convert(usual.high, measure.unit, measure.decimals, units)[0]) >= 20;
  const tell = (v: number) => {
    const [value, , decimals] = convert(v, measure.unit, measure.decimals, units);
    return digits(value, whole ? 0 : decimals);
  };
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-sm" role="img" aria-label={`Usual ${tell(usual.low)} to ${tell(usual.high)}${mean === undefined ? "" : `, this set ${tell(mean)}`}`}>
      <line x1={12} x2={WIDTH - 12} y1={MIDDLE} y2={MIDDLE} stroke="var(--line)" strokeWidth={2} />
      <rect x={x(usual.low)} y={MIDDLE - 14} width={Math.max(2, x(usual.high) - x(usual.low))} height={28} fill="var(--shade)" stroke="var(--line)" />
      {mean !== undefined && <line x1={x(mean)} x2={x(mean)} y1={MIDDLE - 19} y2={MIDDLE + 19} stroke="var(--ink)" strokeWidth={3} />}
      {last !== undefined &&
        (side === "left" ? (
          <circle cx={x(last)} cy={MIDDLE} r={10} fill="var(--oar)" />
        ) : (
          <path d={`M${x(last)} ${MIDDLE - 13}l13 13l-13 13l-13 -13z`} fill="var(--ground)" stroke="var(--buoy)" strokeWidth={3.5} />
        ))}
      <text x={x(usual.low)} y={HEIGHT - 6} textAnchor="middle" fontSize={19} fill="var(--soft)">
        {tell(usual.low)}
      </text>
      <text x={x(usual.high)} y={HEIGHT - 6} textAnchor="middle" fontSize={19} fill="var(--soft)">
        {tell(usual.high)}
      </text>
    </svg>
  );
}
