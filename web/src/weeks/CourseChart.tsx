import { scaleLinear, scaleTime } from "d3-scale";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { shortDay, type Measure } from "../format";
import { useWidth } from "../ui/useWidth";
import { ValueAxis } from "../ui/ValueAxis";

const HEIGHT = 300;
const TOP = 34;
const FOOT = 24;
const LEFT = 52;
const DAY_MS = 86_400_000;
const STEPPED = ["keep", "bag", "calibration"];

/** Evening means with their intervals, the band of chance, the fitted course, and marks where something changed. */
export function CourseChart({ weeks, measure, studentId }: { weeks: Schemas["WeeksOut"]; measure: Measure; studentId: number }) {
  const [outer, width] = useWidth<HTMLDivElement>(600);
  const course = weeks.course!;
  const days = course.evenings.map((e) => Date.parse(e.on));
  const x = scaleTime([new Date(days[0]! - 3 * DAY_MS), new Date(days.at(-1)! + 4 * DAY_MS)], [LEFT, width]);
  const all = [...course.evenings.flatMap((e) => [e.ci95[0], e.ci95[1]]), ...(course.band ?? []), ...weeks.bests.map((b) => b.value)].filter((v): v is number => v !== null);
  const y = scaleLinear([Math.min(...all), Math.max(...all)], [HEIGHT - FOOT, TOP]).nice(4);
  const shown = weeks.marks.filter((m) => Date.parse(m.on) <= days.at(-1)! + 4 * DAY_MS);
  return (
    <div ref={outer}>
      <svg width={width} height={HEIGHT} role="group" aria-label={`${measure.label} over ${course.evenings.length} evenings`}>
        {course.band && <rect x={LEFT} width={Math.max(width - LEFT, 0)} y={y(course.band[1]!)} height={y(course.band[0]!) - y(course.band[1]!)} fill="var(--shade)" />}
        <ValueAxis y={y} measure={measure} left={LEFT} width={width} />
        {shown.map((m, i) => {
          const at = x(new Date(m.on));
          return m.until ? (
            <g key={`${m.on} ${m.kind}`}>
              <rect x={at} width={Math.max(4, x(new Date(Date.parse(m.until) + DAY_MS)) - at)} y={TOP - 14} height={HEIGHT - FOOT - TOP + 14} fill="var(--line)" opacity={0.5} />
              <text x={at + 3} y={12} fontSize={12} fill="var(--soft)">
                {m.kind}
              </text>
            </g>
          ) : (
            <g key={`${m.on} ${m.kind}`}>
              <line x1={at} x2={at} y1={i % 2 ? 18 : 4} y2={HEIGHT - FOOT} stroke={STEPPED.includes(m.kind) ? "var(--buoy)" : "var(--soft)"} strokeWidth={STEPPED.includes(m.kind) ? 2 : 1} strokeDasharray={STEPPED.includes(m.kind) ? undefined : "4 3"} />
              <text x={at + 4} y={i % 2 ? 28 : 14} fontSize={12} fill="var(--ink)">
                {m.kind.replace("_", " ")}
              </text>
            </g>
          );
        })}
        <path d={lines(course, weeks.marks, x, y)} fill="none" stroke="var(--buoy)" strokeWidth={2} />
        {course.evenings.map((e) => {
          const at = x(new Date(e.on));
          return (
            <g key={e.on}>
              <title>{`${shortDay(e.on)}: ${e.strikes} strikes`}</title>
              <line x1={at} x2={at} y1={y(e.ci95[0]!)} y2={y(e.ci95[1]!)} stroke="var(--oar)" strokeWidth={2} />
              <circle cx={at} cy={y(e.mean!)} r={5} fill="var(--oar)" />
            </g>
          );
        })}
        {weeks.bests.map((b) => (
          <Link key={b.strike_id} to={`/students/${studentId}/read?recording=${b.recording_id}&id=${b.strike_id}`} aria-label={`Read the best strike of ${shortDay(String(b.on))}`}>
            <path d={star(x(new Date(String(b.on))), y(b.value!))} fill="var(--ground)" stroke="var(--ink)" strokeWidth={1.3}>
              <title>{`Best beyond doubt on ${shortDay(String(b.on))}`}</title>
            </path>
          </Link>
        ))}
        {x.ticks(Math.min(8, Math.max(2, Math.floor((width - LEFT) / 75)))).map((t) => (
          <text key={t.getTime()} x={x(t)} y={HEIGHT - 6} fontSize={12} textAnchor="middle" fill="var(--soft)">
            {x(t) > LEFT + 14 && x(t) < width - 14 ? shortDay(t.toISOString()) : ""}
          </text>
        ))}
      </svg>
    </div>
  );
}

type Scale = (value: number) => number;
type TimeScale = (value: Date) => number;

/** The fitted course, broken where it steps. */
function lines(course: Schemas["CourseOut"], marks: Schemas["MarkOut"][], x: TimeScale, y: Scale): string {
  const breaks = marks.filter((m) => STEPPED.includes(m.kind) && course.marks.some((c) => c.on === m.on && c.step)).map((m) => Date.parse(m.on));
  let path = "";
  let part = -1;
  for (const p of course.line) {
    const day = Date.parse(p.on);
    const own = breaks.filter((b) => b <= day).length;
    path += `${own === part ? "L" : "M"}${x(new Date(day)).toFixed(1)} ${y(p.value ?? 0).toFixed(1)}`;
    part = own;
  }
  return path;
}

function star(x: number, y: number): string {
  const points = Array.from({ length: 10 }, (_, i) => {
    const r = i % 2 ? 2.6 : 6;
    const angle = (Math.PI * i) / 5 - Math.PI / 2;
    return `${(x + r * Math.cos(angle)).toFixed(1)} ${(y + r * Math.sin(angle)).toFixed(1)}`;
  });
  return `M${points.join("L")}z`;
}
