import { scaleLinear } from "d3-scale";
import { useMemo, type PointerEvent } from "react";
import type { Schemas } from "../api/client";
import { useStrikePage } from "../api/queries";
import { convert, digits, show, type System } from "../format";
import { useCursorAt } from "./cursor";
import { FROM_MS as FROM, STEP_MS, TO_MS as TO } from "./limits";
import { phasesOf, threadOf, type Phase, type ThreadPoint } from "./phases";
import { useReading } from "./reading";

const WIDTH = 900;
const LANE = 100;
const LEFT = 132;
const RIGHT = 10;
const TOP = 26;
const FOOT = 30;

/** The lanes from the top down, as the body is: what each shows, and the figure that is told beside it. */
const LANES = [
  { key: "force", name: "Bag", measure: "peak_force_n", unit: "N", decimals: 0 },
  { key: "speed_m_s", name: "Limb", measure: "peak_speed_m_s", unit: "m/s", decimals: 1 },
  { key: "torso_deg_s", name: "Torso", measure: "torso_peak_deg_s", unit: "deg/s", decimals: 0 },
  { key: "pelvis_deg_s", name: "Pelvis", measure: "pelvis_peak_deg_s", unit: "deg/s", decimals: 0 },
  { key: "lead_load_pct", name: "Feet", measure: "lead_load_contact_pct", unit: "%", decimals: 0 },
] as const;

const HEIGHT = TOP + LANES.length * LANE + FOOT;

interface Course {
  ms: number[];
  values: number[];
}

/** One strike from the floor up: lanes stacked as the body is, one time axis, a thread through the peaks. */
export function FloorUp() {
  const { recording, strikes, shown: chosen, registry, view, cursor: store, units } = useReading();
  const id = strikes.id[chosen]!;
  const page = useStrikePage(id, strikes.set_id[chosen], view.under);
  const underId = /^\d+$/.test(view.under) ? Number(view.under) : undefined;
  const other = useStrikePage(underId, underId === undefined ? null : strikes.set_id[strikes.id.indexOf(underId)]);
  const lanes = page.data?.lanes;
  const curve = page.data?.curve;
  const otherCurve = underId === undefined ? null : other.data?.curve;
  const x = scaleLinear([FROM, TO], [LEFT, WIDTH - RIGHT]);
  const courses = useMemo(() => coursesOf(lanes?.ms ?? [], lanes?.own ?? {}, curve), [lanes, curve]);
  const under = useMemo(() => coursesOf(lanes?.ms ?? [], lanes?.under ?? {}, otherCurve), [lanes, otherCurve]);
  const phases = phasesOf(strikes, chosen, courses.pelvis_deg_s);
  const thread = threadOf(strikes, chosen, curve?.peak_ms);
  const cursor = useCursorAt(store);
  const point = (e: PointerEvent<SVGSVGElement>) => {
    if (e.pointerType !== "mouse" && e.buttons === 0 && e.type === "pointermove") return;
    const box = e.currentTarget.getBoundingClientRect();
    const ms = x.invert(((e.clientX - box.left) / box.width) * WIDTH);
    if (ms >= FROM - STEP_MS && ms <= TO + STEP_MS) store.set(ms);
  };
  const label = `Floor-up view of strike ${strikes.number[chosen]}: ${LANES.map((l) => l.name.toLowerCase()).join(", ")} against time from contact`;
  return (
    <section aria-label="From the floor up" className={`min-w-0 ${page.isPlaceholderData ? "opacity-60" : ""}`}>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full touch-none select-none" role="img" aria-label={label} onPointerMove={point} onPointerDown={point}>
        <Phases phases={phases} x={x} />
        {LANES.map((lane, i) => {
          const top = TOP + i * LANE;
          const measure = registry.measures.find((m) => m.name === lane.measure)!;
          const own = courses[lane.key];
          return (
            <g key={lane.key}>
              <LaneLabel name={laneName(lane.name, strikes, chosen, lanes?.lead)} shown={show(measure, strikes.values[lane.measure]?.[chosen], strikes.sds[lane.measure]?.[chosen], units)} top={top} />
              {own ? (
                <Curve own={own} under={under[lane.key]} lane={lane} top={top} x={x} cursor={cursor} units={units} />
              ) : (
                <text x={(LEFT + WIDTH) / 2} y={top + LANE / 2 + 4} textAnchor="middle" fontSize={13} fill="var(--soft)">
                  {page.isPending ? "Fetching …" : missing(recording, lane.measure)}
                </text>
              )}
              <line x1={0} x2={WIDTH - RIGHT} y1={top + LANE} y2={top + LANE} stroke="var(--line)" />
            </g>
          );
        })}
        <line x1={x(0)} x2={x(0)} y1={TOP - 4} y2={HEIGHT - FOOT} stroke="var(--ink)" strokeWidth={1.5} />
        <Thread points={thread} courses={courses} under={under} x={x} />
        <Axis x={x} zero={strikes.kind[chosen] === "air" ? "full reach" : "contact"} />
        {cursor !== undefined && <line x1={x(cursor)} x2={x(cursor)} y1={TOP} y2={HEIGHT - FOOT} stroke="var(--oar)" strokeDasharray="2 3" />}
      </svg>
    </section>
  );
}

function laneName(name: string, strikes: Schemas["Strikes"], chosen: number, lead: string | undefined): string {
  if (name === "Limb") {
    const part = strikes.limb[chosen]!.split("_")[1];
    return part ? part[0]!.toUpperCase() + part.slice(1) : "Limb";
  }
  return name === "Feet" && lead ? `Feet: ${lead} leads` : name;
}

function missing(recording: Schemas["RecordingOut"], measure: string): string {
  const why = recording.not_measured.find((n) => n.measure === measure)?.why;
  return why ? why[0]!.toUpperCase() + why.slice(1) : "Not to be had of this strike, or its curves are no longer kept";
}

function coursesOf(ms: number[], lanes: Record<string, number[]>, curve: Schemas["CurveOut"] | null | undefined): Record<string, Course | undefined> {
  const out: Record<string, Course | undefined> = {};
  for (const [name, values] of Object.entries(lanes)) out[name] = { ms, values };
  if (curve?.force_n) out.force = { ms: [FROM, ...curve.ms, TO], values: [0, ...curve.force_n, 0] };
  return out;
}

type Scale = ReturnType<typeof scaleLinear<number, number>>;

/** Height of a value in its lane: loads run from 0 to 100, rates and speeds have their zero where they need it. */
export function laneScale(key: string, courses: (Course | undefined)[], top: number): Scale {
  if (key === "lead_load_pct") return scaleLinear([0, 100], [top + LANE - 8, top + 12]);
  const all = courses.flatMap((c) => c?.values ?? []);
  const high = Math.max(...all, 1e-6);
  const low = Math.min(...all, 0);
  return scaleLinear([Math.max(low, -0.6 * high), high], [top + LANE - 8, top + 14]);
}

interface CurveProps {
  own: Course;
  under: Course | undefined;
  lane: (typeof LANES)[number];
  top: number;
  x: Scale;
  cursor: number | undefined;
  units: System;
}

function Curve({ own, under, lane, top, x, cursor, units }: CurveProps) {
  const y = laneScale(lane.key, [own, under], top);
  const feet = lane.key === "lead_load_pct";
  const base = y(feet ? 0 : Math.max(0, y.domain()[0]!));
  const path = (c: Course) =>
    c.ms
      .map((ms, i) => [ms, c.values[i]!] as const)
      .filter(([ms]) => ms >= FROM && ms <= TO)
      .map(([ms, v]) => `${x(ms).toFixed(1)},${y(Math.max(v, y.domain()[0]!)).toFixed(1)}`)
      .join(" ");
  const line = path(own);
  const value = cursor === undefined ? null : valueAt(own, cursor);
  return (
    <g>
      <line x1={LEFT} x2={WIDTH - RIGHT} y1={feet ? y(50) : y(0)} y2={feet ? y(50) : y(0)} stroke="var(--soft)" strokeOpacity={0.5} strokeDasharray="1 5" />
      {feet && (
        <>
          <text x={LEFT + 2} y={y(50) - 4} fontSize={12} fill="var(--soft)">
            even
          </text>
          <text x={LEFT + 2} y={y(100) - 1} fontSize={12} fill="var(--soft)">
            all on the lead foot
          </text>
        </>
      )}
      <polygon points={`${x(Math.max(FROM, own.ms[0]!))},${base} ${line} ${x(Math.min(TO, own.ms.at(-1)!))},${base}`} fill={feet ? "var(--oar)" : "var(--ink)"} fillOpacity={feet ? 0.18 : 0.07} />
      {under && <polyline points={path(under)} fill="none" stroke="var(--soft)" strokeWidth={1.5} strokeDasharray="5 3" />}
      <polyline points={line} fill="none" stroke={feet ? "var(--oar)" : "var(--ink)"} strokeWidth={2} strokeLinejoin="round" />
      {value !== null && cursor !== undefined && <CursorValue value={value} x={x(cursor)} y={y(Math.max(value, y.domain()[0]!))} lane={lane} top={top} units={units} />}
    </g>
  );
}

function CursorValue({ value, x, y, lane, top, units }: { value: number; x: number; y: number; lane: (typeof LANES)[number]; top: number; units: System }) {
  const [v, unit, decimals] = convert(value, lane.unit, lane.decimals, units);
  const left = x > WIDTH - 140;
  return (
    <g>
      <circle cx={x} cy={y} r={3.5} fill="var(--oar)" />
      <text x={left ? x - 8 : x + 8} y={Math.max(y - 6, top + 14)} fontSize={13} fontWeight={650} textAnchor={left ? "end" : "start"} fill="var(--oar)" stroke="var(--ground)" strokeWidth={4} paintOrder="stroke">
        {digits(v, decimals)} {unit}
      </text>
    </g>
  );
}

export function valueAt(c: Course, ms: number): number | null {
  const i = c.ms.findIndex((m) => m >= ms);
  if (i < 0) return null;
  if (i === 0) return c.ms[0] === ms ? c.values[0]! : null;
  const part = (ms - c.ms[i - 1]!) / (c.ms[i]! - c.ms[i - 1]! || 1);
  return c.values[i - 1]! + part * (c.values[i]! - c.values[i - 1]!);
}

function LaneLabel({ name, shown, top }: { name: string; shown: ReturnType<typeof show>; top: number }) {
  return (
    <g>
      <text x={0} y={top + 26} fontSize={13} fontWeight={650} fill="var(--soft)">
        {name}
      </text>
      {shown ? (
        <>
          <text x={0} y={top + 57} className="figure" fontSize={29} fill="var(--ink)">
            {shown.value}
          </text>
          <text x={0} y={top + 78} fontSize={12.5} fill="var(--ink)">
            {shown.unit} <tspan fill="var(--soft)">{shown.doubt}</tspan>
          </text>
        </>
      ) : (
        <text x={0} y={top + 52} fontSize={12.5} fill="var(--soft)">
          not measured
        </text>
      )}
    </g>
  );
}

function Phases({ phases, x }: { phases: Phase[]; x: Scale }) {
  return phases.map((p, i) => {
    const [from, to] = [Math.max(p.from, FROM), Math.min(p.to, TO)];
    const wide = x(to) - x(from);
    return wide <= 0 ? null : (
      <g key={p.name}>
        {i % 2 === 1 && <rect x={x(from)} width={wide} y={0} height={HEIGHT - FOOT} fill="var(--shade)" />}
        {wide > 8 + 6.5 * p.name.length && (
          <text x={x((from + to) / 2)} y={15} textAnchor="middle" fontSize={12.5} fontWeight={650} fill="var(--soft)">
            {p.name}
          </text>
        )}
      </g>
    );
  });
}

type Courses = Record<string, Course | undefined>;

/** Where the thread's points lie: on the curves as they are drawn, whatever lies under them. */
export function placedOn(points: ThreadPoint[], courses: Courses, under: Courses): (ThreadPoint & { y: number })[] {
  return points.flatMap((p) => {
    const course = courses[p.lane];
    const value = course ? valueAt(course, p.ms) : null;
    if (!course || value === null) return [];
    const top = TOP + LANES.findIndex((l) => l.key === p.lane) * LANE;
    return [{ ...p, y: laneScale(p.lane, [course, under[p.lane]], top)(value) }];
  });
}

/** Through the peaks from the floor to the bag: power seen climbing, or starting half-way. */
function Thread({ points, courses, under, x }: { points: ThreadPoint[]; courses: Courses; under: Courses; x: Scale }) {
  const placed = placedOn(points, courses, under).map((p) => ({ ...p, x: x(p.ms) }));
  return (
    <g>
      <polyline points={placed.map((p) => `${p.x},${p.y}`).join(" ")} fill="none" stroke="var(--buoy)" strokeWidth={2} strokeOpacity={0.85} />
      {placed.map((p) => (
        <g key={p.lane}>
          <circle cx={p.x} cy={p.y} r={5} fill="var(--ground)" stroke="var(--buoy)" strokeWidth={2.5} />
          <text x={p.x - 10} y={p.y - 4} textAnchor="end" fontSize={13} fontWeight={700} fill="var(--buoy)" stroke="var(--ground)" strokeWidth={4} paintOrder="stroke">
            {p.label}
          </text>
        </g>
      ))}
    </g>
  );
}

function Axis({ x, zero }: { x: Scale; zero: string }) {
  return (
    <g>
      {x.ticks(10).map((t) => (
        <text key={t} x={x(t)} y={HEIGHT - 12} fontSize={12.5} textAnchor="middle" fill={t === 0 ? "var(--ink)" : "var(--soft)"} fontWeight={t === 0 ? 650 : 400}>
          {t === 0 ? zero : t > 0 ? `+${t}` : digits(t, 0)}
        </text>
      ))}
      <text x={0} y={HEIGHT - 12} fontSize={12.5} fill="var(--soft)">
        milliseconds
      </text>
    </g>
  );
}
