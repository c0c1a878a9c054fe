import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { digits, minutes } from "../format";

const WIDTH = 360;
const HEIGHT = 64;

/** A unit's signal for the eye: acceleration above, turn rate below, the highest in each stretch. */
export function SignalLine({ signal }: { signal: Schemas["SignalOut"] }) {
  const line = (values: number[], top: number, foot: number) => {
    const x = scaleLinear([0, Math.max(values.length - 1, 1)], [0, WIDTH]);
    const y = scaleLinear([0, Math.max(...values, 1e-6)], [foot, top]);
    return values.map((v, i) => `${x(i).toFixed(1)},${y(v).toFixed(1)}`).join(" ");
  };
  if (signal.load_n.length)
    return (
      <figure className="min-w-0">
        <figcaption className="numeric text-2xs text-soft">
          {how(signal)}; up to {digits(Math.max(...signal.load_n), 0)} N
        </figcaption>
        <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label="Load over the recording">
          <polyline points={line(signal.load_n, 2, HEIGHT - 2)} fill="none" stroke="var(--ink)" />
        </svg>
      </figure>
    );
  return (
    <figure className="min-w-0">
      <figcaption className="numeric text-2xs text-soft">
        {how(signal)}; up to {digits(Math.max(...signal.accel_m_s2), 0)} m/s²{signal.gyro_rad_s.length > 0 && `, ${digits(Math.max(...signal.gyro_rad_s), 1)} rad/s`}
      </figcaption>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label="Acceleration and turn rate over the recording">
        <polyline points={line(signal.accel_m_s2, 2, 32)} fill="none" stroke="var(--ink)" />
        {signal.gyro_rad_s.length > 0 && <polyline points={line(signal.gyro_rad_s, 36, HEIGHT - 2)} fill="none" stroke="var(--oar)" />}
      </svg>
    </figure>
  );
}

function how({ rate_hz, length_s }: Schemas["SignalOut"]): string {
  return rate_hz === null || length_s === null ? "the rate is not said yet" : `${digits(rate_hz, rate_hz % 1 ? 1 : 0)} a second, ${minutes(length_s)}`;
}
