import { scaleLinear } from "d3-scale";
import { useMemo, type MouseEvent } from "react";
import type { Schemas } from "../api/client";
import { shortDay, type Measure } from "../format";
import { useWidth } from "../ui/useWidth";
import { ValueAxis } from "../ui/ValueAxis";

const HEIGHT = 300;
const TOP = 10;
const FOOT = 24;
const LEFT = 52;
const COLUMN_SHARE = 0.36; // of an evening's width, for either level
const NEAR_PX = 14;

interface Props {
  strikes: Schemas["DotsOut"];
  blocks: Schemas["BlockMeanOut"][];
  levels: string[];
  measure: Measure;
  names: Record<string, string>; //: of students, by label; more than one is told under the evening
  onOpen: (recording: number, strike: number) => void;
}

/** Every strike of a comparison, evening by evening: round for the first level, a diamond for the second; bars are block means. */
export function DotsChart({ strikes, blocks, levels, measure, names, onOpen }: Props) {
  const [outer, width] = useWidth<HTMLDivElement>(760);
  const columns = useMemo(() => [...new Set(strikes.on.map((on, i) => `${strikes.student[i]}\t${on}`))], [strikes]);
  const several = new Set(strikes.student).size > 1;
  const wide = Math.max(width, LEFT + 46 * columns.length);
  const step = (wide - LEFT) / Math.max(columns.length, 1);
  const y = useMemo(() => {
    const known = strikes.value.filter((v): v is number => v !== null);
    const [low, high] = [Math.min(...known), Math.max(...known)];
    const room = 0.04 * (high - low || 1);
    return scaleLinear([low - room, high + room], [HEIGHT - FOOT, several ? TOP + 16 : TOP]).nice(4);
  }, [several, strikes.value]);
  const places = useMemo(() => {
    const at = new Map(columns.map((c, i) => [c, i]));
    return strikes.value.map((v, i) => {
      if (v === null) return null;
      const column = at.get(`${strikes.student[i]}\t${strikes.on[i]}`)!;
      return { x: LEFT + step * (column + side(strikes.level[i]!) + spread(strikes.id[i]!)), y: y(v) };
    });
  }, [columns, strikes, step, y]);
  const bars = useMemo(() => barsOf(blocks, columns), [blocks, columns]);

  const open = (e: MouseEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    let best = -1;
    let near = NEAR_PX ** 2;
    places.forEach((p, i) => {
      const d = p ? (p.x - (e.clientX - box.left)) ** 2 + (p.y - (e.clientY - box.top)) ** 2 : Infinity;
      if (d < near) [best, near] = [i, d];
    });
    if (best >= 0) onOpen(strikes.recording[best]!, strikes.id[best]!);
  };
  const part = (level: number, out: boolean) =>
    places.flatMap((p, i) => (p && strikes.level[i] === level && Boolean(strikes.excluded[i]) === out ? [mark(level, p.x, p.y, out ? 3 : 3.4)] : [])).join("");
  const every = Math.ceil((columns.length * 62) / (wide - LEFT));
  return (
    <div ref={outer} className="overflow-x-auto" tabIndex={0} role="group" aria-label="Every strike, evening by evening">
      <svg width={wide} height={HEIGHT} role="img" aria-label={`${strikes.id.length} strikes of ${levels.join(" and ")}`} onClick={open} className="cursor-pointer">
        <ValueAxis y={y} measure={measure} left={LEFT} width={wide} />
        <path d={part(0, false)} fill="var(--oar)" fillOpacity={0.62} />
        <path d={part(1, false)} fill="none" stroke="var(--buoy)" strokeWidth={1.3} />
        <path d={part(0, true) + part(1, true)} fill="none" stroke="var(--soft)" strokeWidth={1} strokeDasharray="2 2" />
        {bars.map((b) => {
          const x = LEFT + step * (b.column + side(b.level));
          const half = Math.min(0.17 * step, 22);
          return <line key={`${b.column} ${b.level} ${b.place}`} x1={x - half} x2={x + half} y1={y(b.mean)} y2={y(b.mean)} stroke={b.level ? "var(--buoy)" : "var(--oar)"} strokeWidth={3} />;
        })}
        {columns.map((c, i) =>
          i % every ? null : (
            <text key={c} x={LEFT + step * (i + 0.5)} y={HEIGHT - 6} fontSize={12} textAnchor="middle" fill="var(--ink)">
              {shortDay(c.split("\t")[1]!)}
            </text>
          ),
        )}
        {several &&
          [...new Set(strikes.student)].map((who) => {
            const own = columns.flatMap((c, i) => (c.startsWith(`${who}\t`) ? [i] : []));
            const x = LEFT + step * own[0]!;
            return (
              <g key={who}>
                <line x1={x + 1} x2={x + 1} y1={TOP} y2={HEIGHT} stroke="var(--line)" />
                <text x={x + 6} y={TOP + 10} fontSize={13} fontWeight={700} fill="var(--ink)">
                  {names[who] ?? who}
                </text>
              </g>
            );
          })}
      </svg>
    </div>
  );
}

/** Middle of a level's half of an evening, as a share of its width. */
function side(level: number): number {
  return level ? 0.72 : 0.28;
}

/** Where in its column a strike stands: the same place every time it is drawn. */
function spread(id: number): number {
  return ((((id * 2654435761) >>> 0) % 1000) / 1000 - 0.5) * COLUMN_SHARE;
}

function mark(level: number, x: number, y: number, r: number): string {
  if (level === 0) return `M${(x - r).toFixed(1)} ${y.toFixed(1)}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0`;
  const d = r * 1.25;
  return `M${x.toFixed(1)} ${(y - d).toFixed(1)}l${d} ${d}l${-d} ${d}l${-d} ${-d}z`;
}

function barsOf(blocks: Schemas["BlockMeanOut"][], columns: string[]) {
  return blocks.flatMap((b) => (b.mean === null ? [] : [{ column: columns.indexOf(`${b.student}\t${b.on}`), level: b.level, place: b.place, mean: b.mean }]));
}
