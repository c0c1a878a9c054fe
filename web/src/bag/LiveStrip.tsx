import { scaleLinear } from "d3-scale";
import { useEffect, useRef } from "react";
import { type Measure } from "../format";
import { useWidth } from "../ui/useWidth";
import type { Take } from "./heard/take";
import { levelsOf } from "./heard/words";
import { usePlannedName } from "../ui/StrikePicker";

const HEIGHT = 118;
const FOOT = 24;
const TOP = 22;
const APART = 26; // between strikes
const GAP = 44; // between sets

/** The evening so far as one growing line: sets as shades, a strike's height the measure; round is left, a diamond right. */
export function LiveStrip({ take, measure }: { take: Take; measure: Measure }) {
  const plannedName = usePlannedName();
  const [box, width] = useWidth<HTMLDivElement>(1000);
  const scroller = useRef<HTMLDivElement>(null);
  const sets = take.marks.filter((m) => m.kind === "set");
  let at = 10;
  const placed = sets.map((mark) => {
    const strikes = take.strikes.filter((s) => s.mark === mark.key);
    const from = at;
    at += Math.max(strikes.length * APART + 16, 110) + GAP;
    return { mark, strikes, from, to: at - GAP };
  });
  const wide = Math.max(width, at);
  const values = take.strikes.flatMap((s) => s.measures[measure.name]?.[0] ?? []);
  const y = scaleLinear([0, Math.max(1e-6, ...values)], [HEIGHT - FOOT, TOP + 14]);
  useEffect(() => {
    if (scroller.current) scroller.current.scrollLeft = wide;
  }, [wide, take.strikes.length]);
  return (
    <div ref={box} className="mt-2 hidden border-t border-line [@media(min-height:600px)]:block">
      <div ref={scroller} className="overflow-x-auto overflow-y-hidden">
        <svg width={wide} height={HEIGHT} role="img" aria-label={`${take.strikes.length} strikes in ${sets.length} sets so far`}>
          {placed.map(({ mark, strikes, from, to }, k) => (
            <g key={mark.key}>
              <rect x={from} y={4} width={to - from} height={HEIGHT - FOOT - 4} fill="var(--shade)" opacity={k % 2 ? 0.55 : 1} />
              <text x={from + 6} y={19} fontSize={15} fill="var(--soft)">
                {named(levelsOf(mark.levels) || plannedName(mark.code).toLowerCase(), to - from)}
              </text>
              {strikes.map((s, i) => {
                const v = s.measures[measure.name]?.[0];
                const cx = from + 14 + i * APART;
                const cy = v === undefined ? HEIGHT - FOOT - 10 : y(Math.max(0, v));
                const left = s.limb.startsWith("left");
                const hollow = !!s.excluded;
                const ink = left ? "var(--oar)" : "var(--buoy)";
                return (
                  <g key={s.strike} opacity={v === undefined ? 0.5 : 1}>
                    {v !== undefined && <line x1={cx} x2={cx} y1={cy} y2={HEIGHT - FOOT} stroke={ink} strokeWidth={2} strokeDasharray={hollow ? "2 3" : undefined} />}
                    {left ? (
                      <circle cx={cx} cy={cy} r={6} fill={hollow ? "var(--ground)" : ink} stroke={ink} strokeWidth={2} />
                    ) : (
                      <path d={`M${cx} ${cy - 8}l8 8l-8 8l-8 -8z`} fill="var(--ground)" stroke={ink} strokeWidth={2.5} strokeDasharray={hollow ? "2 2" : undefined} />
                    )}
                  </g>
                );
              })}
            </g>
          ))}
          <line x1={0} x2={wide} y1={HEIGHT - FOOT} y2={HEIGHT - FOOT} stroke="var(--ink)" strokeWidth={2} />
          {placed.slice(1).map(({ mark, from }, k) => {
            const before = placed[k]!.mark;
            return before.until ? (
              <text key={mark.key} x={from - GAP / 2} y={HEIGHT - 6} fontSize={13} textAnchor="middle" fill="var(--soft)">
                {restOf(before.until, mark.at)}
              </text>
            ) : null;
          })}
        </svg>
      </div>
    </div>
  );
}

function named(text: string, width: number): string {
  const fits = Math.floor((width - 10) / 7.6);
  return text.length > fits ? `${text.slice(0, Math.max(3, fits - 1))}…` : text;
}

function restOf(until: string, at: string): string {
  const seconds = Math.max(0, Math.round((Date.parse(at) - Date.parse(until)) / 1000));
  return seconds < 90 ? `${seconds} s` : `${Math.round(seconds / 60)} min`;
}
