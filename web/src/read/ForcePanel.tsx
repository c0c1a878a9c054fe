import { scaleLinear } from "d3-scale";
import { useMemo } from "react";
import type { Schemas } from "../api/client";
import { useCurves } from "../api/queries";
import { convert, show } from "../format";
import { useUnits } from "../ui/settings";
import { roundTicks } from "../ui/ticks";
import { useReading } from "./reading";

const BEFORE = 5;
const WIDTH = 416;
const HEIGHT = 232;
const PAD = { left: 46, right: 10, top: 26, bottom: 30 };

/** The force of the strike over its contact, with the last ones of the same set laid under it. */
export function ForcePanel() {
  const { strikes, shown: chosen, registry, units } = useReading();
  const ids = useMemo(() => {
    const same: number[] = [];
    for (let i = chosen - 1; i >= 0 && same.length < BEFORE; i--)
      if (strikes.planned[i] === strikes.planned[chosen] && !strikes.excluded[i]) same.push(strikes.id[i]!);
    return [strikes.id[chosen]!, ...same];
  }, [strikes, chosen]);
  const curves = useCurves(ids);
  const offBag = strikes.kind[chosen] !== "bag";
  const own = curves.data?.find((c) => c.strike_id === ids[0]);
  const peak = registry.measures.find((m) => m.name === "peak_force_n")!;
  const shown = show(peak, strikes.values.peak_force_n?.[chosen], strikes.sds.peak_force_n?.[chosen], units);
  return (
    <figure className="mt-3">
      <figcaption className="flex items-baseline gap-3">
        {shown ? (
          <>
            <span className="figure text-4xl leading-none">{shown.value}</span>
            <span className="text-base">
              {shown.unit} <span className="text-soft">{shown.doubt}</span>
            </span>
            <span className="ml-auto text-soft">peak force</span>
          </>
        ) : (
          <span className="text-soft">{offBag ? "No bag felt this strike." : "Peak force was not to be had: see the figures."}</span>
        )}
      </figcaption>
      {own ? (
        <Chart own={own} under={curves.data!.filter((c) => c !== own)} faded={curves.isPlaceholderData} />
      ) : (
        <div className="grid place-items-center border border-line text-soft" style={{ height: HEIGHT }} role="status">
          {offBag ? "Force is measured by a unit on the bag." : curves.error ? curves.error.message : curves.isPending || curves.isFetching ? "Drawing the force curve …" : "The raw samples of this evening are no longer kept."}
        </div>
      )}
    </figure>
  );
}

type CurveData = Schemas["CurveOut"];

function Chart({ own, under, faded }: { own: CurveData; under: CurveData[]; faded: boolean }) {
  const [units] = useUnits();
  const value = (c: CurveData, i: number) => (c.force_n ? c.force_n[i]! : c.shape[i]!);
  const comparable = under.filter((c) => (c.force_n === null) === (own.force_n === null));
  const all = [own, ...comparable];
  const top = Math.max(...all.flatMap((c) => c.ms.map((_, i) => value(c, i))));
  const far = Math.max(25, Math.ceil(Math.max(...all.map((c) => c.end_ms)) / 5) * 5 + 8);
  const x = scaleLinear([-8, far], [PAD.left, WIDTH - PAD.right]);
  const y = scaleLinear([0, top * 1.04], [HEIGHT - PAD.bottom, PAD.top]);
  const line = (c: CurveData) =>
    c.ms
      .map((ms, i) => [ms, value(c, i)] as const)
      .filter(([ms]) => ms >= -8 && ms <= far)
      .map(([ms, f]) => `${x(ms).toFixed(1)},${y(Math.max(f, -0.03 * top)).toFixed(1)}`)
      .join(" ");
  const peakValue = Math.max(...own.ms.map((_, i) => value(own, i)));
  const foot = y(0);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className={`mt-1 w-full ${faded ? "opacity-50" : ""}`} role="img" aria-label={`Force over time: contact ${own.end_ms.toFixed(1)} milliseconds, peak after ${own.peak_ms.toFixed(1)}`}>
      <rect x={x(0)} width={x(own.end_ms) - x(0)} y={PAD.top - 8} height={foot - PAD.top + 8} fill="var(--shade)" />
      {roundTicks(y, 4, own.force_n ? "N" : "", units).map(({ at, text }) => (
        <g key={at}>
          <line x1={PAD.left} x2={WIDTH - PAD.right} y1={y(at)} y2={y(at)} stroke="var(--line)" />
          <text x={PAD.left - 6} y={y(at) + 4} fontSize={12} textAnchor="end" fill="var(--soft)">
            {text}
          </text>
        </g>
      ))}
      {x.ticks(6).map((t) => (
        <text key={t} x={x(t)} y={HEIGHT - 12} fontSize={12} textAnchor="middle" fill="var(--soft)">
          {t === 0 ? "contact" : t}
        </text>
      ))}
      <text x={WIDTH - PAD.right} y={HEIGHT} fontSize={12} textAnchor="end" fill="var(--soft)">
        ms
      </text>
      {comparable.map((c) => (
        <polyline key={c.strike_id} points={line(c)} fill="none" stroke="var(--soft)" strokeOpacity={0.45} strokeWidth={1} />
      ))}
      <line x1={x(0)} x2={x(0)} y1={PAD.top - 8} y2={foot} stroke="var(--ink)" />
      <polyline points={line(own)} fill="none" stroke="var(--ink)" strokeWidth={2.2} strokeLinejoin="round" />
      <line x1={x(own.rise_from_ms)} x2={x(own.rise_to_ms)} y1={y(0.1 * peakValue)} y2={y(0.9 * peakValue)} stroke="var(--oar)" strokeWidth={3} />
      <circle cx={x(own.peak_ms)} cy={y(peakValue)} r={4.5} fill="var(--ground)" stroke="var(--buoy)" strokeWidth={2.5} />
      <text x={x(0) - 6} y={y(0.5 * peakValue)} fontSize={12} textAnchor="end" fill="var(--oar)">
        10–90 %
      </text>
      <text x={x(own.end_ms) + 5} y={foot - 24} fontSize={12} fill="var(--ink)">
        ends {own.end_ms.toFixed(1)} ms
      </text>
      <text x={PAD.left} y={12} fontSize={12} fill="var(--soft)">
        {own.force_n ? convert(1, "N", 0, units)[1] : "of its peak"}, smoothed (nothing faster than {own.cut_off_hz.toFixed(0)} Hz)
        {comparable.length ? `; thin: ${comparable.length} before it` : ""}
      </text>
    </svg>
  );
}
