import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { digits } from "../format";

const WIDTH = 384;
const ROW = 34;
const NAMES = 130;

/** Several students under one trial: each drawn toward the others as far as the doubt goes, the mean, and what to expect of the next. */
export function EachStudent({ comparison, names }: { comparison: Schemas["CompareOut"]; names: Record<string, string> }) {
  const pooled = comparison.claim.pooled;
  if (!pooled) return <p className="text-soft">Fewer than two students have thrown both levels fairly: nothing to pool.</p>;
  const rows: { name: string; told: (number | null)[]; strong?: boolean; dashed?: boolean }[] = [
    ...Object.entries(pooled.each_pct).map(([label, told]) => ({ name: names[label] ?? label, told })),
    { name: "Mean of all", told: [pooled.mean_pct, ...pooled.ci95_pct], strong: true },
    { name: "Somebody new", told: [pooled.mean_pct, ...pooled.next_student_pct], dashed: true },
  ];
  const most = 1.1 * Math.max(...rows.flatMap((r) => r.told.map((v) => Math.abs(v ?? 0))), 1);
  const x = scaleLinear([-most, most], [NAMES, WIDTH - 8]);
  const height = ROW * rows.length + 26;
  return (
    <section aria-label="Student by student">
      <h2 className="wide-title text-base">Student by student, in per cent</h2>
      <svg viewBox={`0 0 ${WIDTH} ${height}`} className="w-full" role="img" aria-label={rows.map((r) => `${r.name}: ${r.told.map((v) => digits(v ?? 0, 0)).join(", ")}`).join("; ")}>
        {x.ticks(4).map((t) => (
          <g key={t}>
            <line x1={x(t)} x2={x(t)} y1={0} y2={height - 22} stroke={t === 0 ? "var(--ink)" : "var(--line)"} />
            <text x={x(t)} y={height - 8} fontSize={12} textAnchor="middle" fill="var(--soft)">
              {t > 0 ? "+" : ""}
              {digits(t, 0)}
            </text>
          </g>
        ))}
        {rows.map((r, i) => {
          const y = ROW * (i + 0.5);
          const [value, low, high] = r.told;
          return (
            <g key={r.name}>
              <text x={0} y={y + 4} fontSize={13} fill="var(--ink)" fontWeight={r.strong ? 700 : 400}>
                {r.name}
              </text>
              <line x1={x(low ?? 0)} x2={x(high ?? 0)} y1={y} y2={y} stroke={r.strong ? "var(--buoy)" : "var(--ink)"} strokeWidth={r.strong ? 5 : 2} strokeDasharray={r.dashed ? "5 4" : undefined} />
              {!r.dashed && <circle cx={x(value ?? 0)} cy={y} r={5} fill="var(--ground)" stroke={r.strong ? "var(--buoy)" : "var(--ink)"} strokeWidth={2.5} />}
            </g>
          );
        })}
      </svg>
      <p className="text-2xs text-soft">
        A student with few strikes is drawn toward the others. Students differ by about {digits(pooled.students_differ_by_pct ?? 0, 0)} points.
      </p>
    </section>
  );
}
