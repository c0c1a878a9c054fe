import { scaleLinear } from "d3-scale";

const WIDTH = 352;
const HEIGHT = 96;
const TRUE_G = 9.80665;

/** The fit behind a calibration: rests before and after, the swing with its sinusoid, or the ball's hits. */
export function FitPicture({ kind, drawn }: { kind: string; drawn: Record<string, number[]> }) {
  if (kind === "rests") return <Rests before={drawn.before ?? []} after={drawn.after ?? []} />;
  if (kind === "swing") return <Swing times={drawn.times_s ?? []} rate={drawn.rate_rad_s ?? []} fitted={drawn.fitted_rad_s ?? []} />;
  return <Ball measured={drawn.measured_n_s ?? []} truth={drawn.true_n_s ?? []} />;
}

function Rests({ before, after }: { before: number[]; after: number[] }) {
  const far = Math.max(...before.map((b) => Math.abs(b - TRUE_G)), 0.02);
  const y = scaleLinear([TRUE_G - far, TRUE_G + far], [HEIGHT - 20, 8]);
  const x = scaleLinear([0, Math.max(before.length - 1, 1)], [30, WIDTH - 20]);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={`${before.length} rests: open before, filled after correcting; the line is 9.81`} className="w-full">
      <line x1={0} x2={WIDTH} y1={y(TRUE_G)} y2={y(TRUE_G)} stroke="var(--line)" />
      {before.map((b, i) => (
        <g key={x(i)}>
          <path d={`M${x(i)} ${y(b) - 5} l5 5 l-5 5 l-5 -5 Z`} fill="none" stroke="var(--buoy)" strokeWidth={1.5} />
          <circle cx={x(i)} cy={y(after[i]!)} r={4} fill="var(--oar)" />
        </g>
      ))}
      <text x={0} y={HEIGHT - 4} fontSize={12} fill="var(--soft)">
        each rest against 9.81: ◇ before, ● after
      </text>
    </svg>
  );
}

function Swing({ times, rate, fitted }: { times: number[]; rate: number[]; fitted: number[] }) {
  const top = Math.max(...rate.map(Math.abs), 1e-6);
  const x = scaleLinear([0, times.at(-1) ?? 1], [0, WIDTH]);
  const y = scaleLinear([-top, top], [HEIGHT - 22, 4]);
  const line = (values: number[]) => values.map((v, i) => `${x(times[i]!).toFixed(1)},${y(v).toFixed(1)}`).join(" ");
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Turn rate of the swing and the fitted sinusoid" className="w-full">
      <polyline points={line(rate)} fill="none" stroke="var(--ink)" strokeWidth={2.5} strokeOpacity={0.35} />
      <polyline points={line(fitted)} fill="none" stroke="var(--buoy)" strokeWidth={1.2} />
      <text x={0} y={HEIGHT - 4} fontSize={12} fill="var(--soft)">
        turn rate over {(times.at(-1) ?? 0).toFixed(0)} s, and the fit
      </text>
    </svg>
  );
}

function Ball({ measured, truth }: { measured: number[]; truth: number[] }) {
  const high = Math.max(...measured, ...truth, 1e-6) * 1.1;
  const x = scaleLinear([0, high], [30, WIDTH - 10]);
  const y = scaleLinear([0, high], [HEIGHT - 20, 4]);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label="Measured against true impulse of each hit" className="w-full">
      <line x1={x(0)} y1={y(0)} x2={x(high)} y2={y(high)} stroke="var(--line)" />
      {measured.map((m, i) => (
        <circle key={x(truth[i]!)} cx={x(truth[i]!)} cy={y(m)} r={4} fill="var(--oar)" />
      ))}
      <text x={0} y={HEIGHT - 4} fontSize={12} fill="var(--soft)">
        measured against true impulse, N s
      </text>
    </svg>
  );
}
