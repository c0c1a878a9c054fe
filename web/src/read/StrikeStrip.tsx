import { scaleLinear } from "d3-scale";
import { useEffect, useMemo, useRef, useState, type PointerEvent } from "react";
import type { Schemas } from "../api/client";
import { convert, minutes } from "../format";
import { useTheme } from "../ui/settings";
import { roundTicks } from "../ui/ticks";
import { PAPER_WIDTH, usePrinting } from "../ui/printing";
import { useReading } from "./reading";
import { usePlannedName } from "../ui/StrikePicker";

const HEIGHT = 104;
const TOP = 22;
const FOOT = 20;
const LEFT = 56;
const APART_PX = 9;
const MOST_PX_PER_S = 40;
const SET_EDGE_S = 0.9;

interface Props {
  onSpan: (from: number, to: number) => void;
}

/** A session as one line of time: height is the measure, round is the left limb, a diamond the right, hollow is out. */
export function StrikeStrip({ onSpan }: Props) {
  const plannedName = usePlannedName();
  const { recording, strikes, registry, view: told, chosen, span: picked, choose: onChoose, units } = useReading();
  const measure = registry.measures.find((m) => m.name === told.measure) ?? registry.measures[0]!;
  const outer = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(1000);
  const [scrolled, setScroll] = useState(0);
  const [dragged, setDragged] = useState<[number, number] | null>(null);
  const [theme] = useTheme();

  useEffect(() => {
    const watch = new ResizeObserver(([entry]) => entry && setWidth(entry.contentRect.width));
    if (outer.current) watch.observe(outer.current);
    return () => watch.disconnect();
  }, []);

  const span = useMemo(() => timeSpan(recording, strikes), [recording, strikes]);
  const printing = usePrinting(); // on paper nothing is scrolled: all of the evening in one line
  const view = printing ? PAPER_WIDTH - LEFT : Math.max(200, width - LEFT);
  const scroll = printing ? 0 : scrolled;
  const wide = useMemo(() => (printing ? view : stripWidth(strikes, span, view)), [printing, strikes, span, view]);
  const x = useMemo(() => scaleLinear(span, [10, wide - 10]), [span, wide]);
  const values = useMemo(() => strikes.values[measure.name] ?? [], [strikes, measure.name]);
  const y = useMemo(() => {
    const known = values.filter((v): v is number => v !== null);
    const high = Math.max(0, ...known);
    const low = Math.min(0, ...known);
    return scaleLinear([low, high === low ? low + 1 : high], [HEIGHT - FOOT, TOP]).nice(3);
  }, [values]);

  useEffect(() => {
    const at = x(strikes.contact_s[chosen] ?? 0);
    const box = outer.current?.querySelector<HTMLDivElement>("[data-scroll]");
    if (box && (at < box.scrollLeft + 30 || at > box.scrollLeft + view - 30)) box.scrollLeft = at - view / 2;
  }, [chosen, strikes, view, x]);

  useEffect(() => {
    const c = canvas.current;
    const pen = c?.getContext("2d");
    if (!c || !pen) return;
    const ratio = window.devicePixelRatio || 1;
    c.width = view * ratio;
    c.height = HEIGHT * ratio;
    pen.setTransform(ratio, 0, 0, ratio, 0, 0);
    drawSets(pen, strikes, x, scroll, view, plannedName);
    drawSpan(pen, strikes, dragged ?? picked, x, scroll);
    drawMarks(pen, strikes, values, x, y, scroll, view, chosen);
    drawTimes(pen, x, scroll, view);
  }, [chosen, dragged, picked, plannedName, scroll, strikes, theme, values, view, x, y]);

  const nearest = (clientX: number) => {
    const box = canvas.current!.getBoundingClientRect();
    const at = x.invert(clientX - box.left + scroll);
    let best = -1;
    for (let i = 0; i < strikes.contact_s.length; i++)
      if (best < 0 || Math.abs(strikes.contact_s[i]! - at) < Math.abs(strikes.contact_s[best]! - at)) best = i;
    return best;
  };
  const press = (e: PointerEvent<HTMLCanvasElement>) => {
    const i = nearest(e.clientX);
    if (i < 0) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    if (e.shiftKey) setDragged([chosen, i]);
    else {
      onChoose(i);
      setDragged([i, i]);
    }
  };
  const drag = (e: PointerEvent<HTMLCanvasElement>) => dragged && setDragged([dragged[0], nearest(e.clientX)]);
  const drop = () => {
    if (dragged && dragged[0] !== dragged[1]) onSpan(dragged[0], dragged[1]);
    setDragged(null);
  };
  const [, unit] = convert(1, measure.unit, measure.decimals, units);
  return (
    <div ref={outer} className="mt-3 flex" style={{ height: HEIGHT + 6 }}>
      <svg width={LEFT} height={HEIGHT} aria-hidden="true" className="shrink-0">
        {roundTicks(y, 3, measure.unit, units).map(({ at, text }) => (
          <text key={at} x={LEFT - 8} y={y(at) + 4} textAnchor="end" fontSize={12} fill="var(--soft)">
            {text}
          </text>
        ))}
        <text x={LEFT - 8} y={13} textAnchor="end" fontSize={12} fill="var(--soft)">
          {unit}
        </text>
      </svg>
      <div data-scroll className="relative min-w-0 flex-1 overflow-x-auto overflow-y-hidden" tabIndex={0} role="group" aria-label="Strip of strikes; arrow keys move between strikes" onScroll={(e) => setScroll(e.currentTarget.scrollLeft)}>
        <div style={{ width: wide, height: HEIGHT }}>
          <canvas
            ref={canvas}
            role="img"
            aria-label={`${strikes.id.length} strikes over ${minutes(recording.length_s)}; height is ${measure.label.toLowerCase()}. The table below lists them.`}
            className="sticky left-0 cursor-pointer"
            style={{ width: view, height: HEIGHT }}
            onPointerDown={press}
            onPointerMove={drag}
            onPointerUp={drop}
            onPointerCancel={() => setDragged(null)}
          />
        </div>
      </div>
    </div>
  );
}

function timeSpan(recording: Schemas["RecordingOut"], strikes: Schemas["Strikes"]): [number, number] {
  const first = Math.min(strikes.contact_s[0] ?? 0, ...recording.events.map((e) => e.onset_s));
  return [Math.max(0, first), Math.min(recording.length_s, (strikes.contact_s.at(-1) ?? recording.length_s) + 3)];
}

/** As wide as the screen, or wider where strikes would lie on each other. */
function stripWidth(strikes: Schemas["Strikes"], span: [number, number], view: number): number {
  const gaps = strikes.contact_s.slice(1).map((t, i) => t - strikes.contact_s[i]!).sort((a, b) => a - b);
  const usual = gaps[Math.floor(gaps.length / 2)] ?? 1;
  return Math.max(view, Math.min(MOST_PX_PER_S, APART_PX / Math.max(usual, 0.1)) * (span[1] - span[0]));
}

function color(name: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
}

type Scale = ReturnType<typeof scaleLinear<number, number>>;

/** Sets as shades under the strikes that belong to them, named at their head. */
function drawSets(pen: CanvasRenderingContext2D, strikes: Schemas["Strikes"], x: Scale, scroll: number, view: number, plannedName: (planned: string) => string) {
  pen.font = "12px 'Archivo Variable'";
  let shade = false;
  for (let i = 0; i < strikes.id.length; ) {
    let j = i;
    while (j + 1 < strikes.id.length && strikes.set_id[j + 1] === strikes.set_id[i]) j++;
    const left = x(strikes.contact_s[i]! - SET_EDGE_S) - scroll;
    const wide = x(strikes.contact_s[j]! + SET_EDGE_S) - scroll - left;
    const set = strikes.sets.find((one) => one.id === strikes.set_id[i]);
    if (set && left + wide > 0 && left < view) {
      pen.fillStyle = color(shade ? "ground" : "shade");
      pen.fillRect(left, 0, wide, HEIGHT - FOOT);
      pen.save();
      pen.beginPath();
      pen.rect(left, 0, wide - 4, TOP);
      pen.clip();
      pen.fillStyle = color("soft");
      pen.fillText([plannedName(set.code), set.school].filter(Boolean).join(", "), Math.max(left + 6, 4), 13);
      pen.restore();
      shade = !shade;
    }
    i = j + 1;
  }
}

function drawSpan(pen: CanvasRenderingContext2D, strikes: Schemas["Strikes"], span: [number, number], x: Scale, scroll: number) {
  if (span[0] === span[1] || span[0] < 0) return;
  const [from, to] = [Math.min(...span), Math.max(...span)];
  const left = x(strikes.contact_s[from]!) - scroll - 7;
  pen.fillStyle = color("oar");
  pen.globalAlpha = 0.16;
  pen.fillRect(left, 0, x(strikes.contact_s[to]!) - scroll + 7 - left, HEIGHT - FOOT);
  pen.globalAlpha = 1;
}

function drawMarks(
  pen: CanvasRenderingContext2D,
  strikes: Schemas["Strikes"],
  values: (number | null)[],
  x: Scale,
  y: Scale,
  scroll: number,
  view: number,
  chosen: number,
) {
  const [ink, ground, buoy, soft] = [color("ink"), color("ground"), color("buoy"), color("soft")];
  const foot = y(0);
  pen.strokeStyle = ink;
  pen.lineWidth = 1;
  pen.beginPath();
  pen.moveTo(0, foot + 0.5);
  pen.lineTo(view, foot + 0.5);
  pen.stroke();
  const mark = (i: number, own: string) => {
    const px = x(strikes.contact_s[i]!) - scroll;
    if (px < -8 || px > view + 8) return;
    const value = values[i];
    const known = value !== null && value !== undefined;
    const py = known ? y(value) : foot;
    const out = strikes.excluded[i] !== "";
    pen.strokeStyle = pen.fillStyle = own;
    pen.lineWidth = i === chosen ? 3 : 1.2;
    pen.setLineDash(out ? [2, 3] : []);
    pen.beginPath();
    pen.moveTo(px, foot);
    pen.lineTo(px, py);
    pen.stroke();
    pen.setLineDash([]);
    outline(pen, strikes.limb[i]!, px, py, i === chosen ? 5.5 : 4);
    pen.fillStyle = out || !known ? ground : own;
    pen.fill();
    pen.lineWidth = 1.5;
    pen.stroke();
  };
  for (let i = 0; i < strikes.id.length; i++) if (i !== chosen) mark(i, strikes.excluded[i] ? soft : ink);
  if (chosen >= 0) mark(chosen, buoy);
}

function outline(pen: CanvasRenderingContext2D, limb: string, px: number, py: number, r: number) {
  pen.beginPath();
  if (limb.startsWith("left")) pen.arc(px, py, r, 0, 2 * Math.PI);
  else if (limb.startsWith("right")) {
    const d = r * 1.3;
    pen.moveTo(px, py - d);
    pen.lineTo(px + d, py);
    pen.lineTo(px, py + d);
    pen.lineTo(px - d, py);
    pen.closePath();
  } else pen.rect(px - r, py - r, 2 * r, 2 * r);
}

function drawTimes(pen: CanvasRenderingContext2D, x: Scale, scroll: number, view: number) {
  pen.fillStyle = color("soft");
  pen.font = "12px 'Archivo Variable'";
  pen.textAlign = "center";
  const range = x.range();
  const count = Math.max(2, Math.round((range[1]! - range[0]!) / 130));
  for (const t of x.ticks(count)) {
    const px = x(t) - scroll;
    if (px > 16 && px < view - 16) pen.fillText(minutes(t), px, HEIGHT - 5);
  }
  pen.textAlign = "start";
}
