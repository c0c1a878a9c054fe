import { scaleLinear } from "d3-scale";
import type { Schemas } from "../api/client";
import { digits, shortDay } from "../format";
import { useWidth } from "../ui/useWidth";

const HEIGHT = 112;
const FOOT = 20;
const TOP = 16;
const LEFT = 52;

/** Strikes a week, left and right; a sudden jump is told. */
export function Volume({ weeks, marks }: { weeks: Omit<Schemas["WeekOut"], "kick_days">[]; marks: Schemas["MarkOut"][] }) {
  const [outer, width] = useWidth<HTMLDivElement>(600);
  if (weeks.length === 0) return null;
  const most = Math.max(...weeks.map((w) => w.strikes), 1);
  const y = scaleLinear([0, most], [HEIGHT - FOOT, TOP]);
  const step = (width - LEFT) / weeks.length;
  const every = Math.ceil(56 / step);
  const flagged = weeks.filter((w) => w.flags.length > 0);
  return (
    <section aria-label="Strikes a week" className="mt-3 border-t border-line pt-2" ref={outer}>
      <h2 className="wide-title text-base">Strikes a week, all kinds</h2>
      <svg width={width} height={HEIGHT} role="img" aria-label={weeks.map((w) => `week of ${String(w.monday)}: ${w.strikes}, ${w.left} left and ${w.right} right`).join("; ")}>
        {weeks.map((w, i) => {
          const x = LEFT + step * i;
          const bar = Math.max(2, Math.min(20, step * 0.36));
          return (
            <g key={String(w.monday)}>
              <rect x={x + step / 2 - bar} width={bar - 1} y={y(w.left)} height={y(0) - y(w.left)} fill="var(--oar)" />
              <rect x={x + step / 2 + 1} width={bar - 1} y={y(w.right)} height={y(0) - y(w.right)} fill="none" stroke="var(--buoy)" strokeWidth={1.5} />
              <text x={x + step / 2} y={y(Math.max(w.left, w.right)) - 4} fontSize={12} textAnchor="middle" fill={w.flags.length ? "var(--buoy)" : "var(--soft)"} fontWeight={w.flags.length ? 700 : 400}>
                {w.strikes ? digits(w.strikes, 0) : ""}
              </text>
              {i % every === 0 && (
                <text x={x + step / 2} y={HEIGHT - 5} fontSize={12} textAnchor="middle" fill="var(--soft)">
                  {shortDay(String(w.monday))}
                </text>
              )}
            </g>
          );
        })}
        <line x1={LEFT} x2={width} y1={y(0)} y2={y(0)} stroke="var(--ink)" />
      </svg>
      <p className="text-2xs text-soft">
        Filled is the left side, open the right.{marks.some((m) => m.kind === "injury") ? " Weeks of an injury are in the chart above." : ""}
      </p>
      {flagged.map((w) => (
        <p key={String(w.monday)} className="mt-1 border-l-4 border-buoy pl-2">
          Week of {shortDay(String(w.monday))}: {w.flags.join(" ")}
        </p>
      ))}
    </section>
  );
}
