import { scaleLinear } from "d3-scale";
import { convert, digits } from "../format";
import { useReading } from "./reading";

const TALL_PX = 186;

/** Where the push went through the bag, to scale, as it hangs. */
export function OnTheBag() {
  const { recording, strikes, shown: chosen, units } = useReading();
  const bag = recording.bag;
  const below = strikes.values.hit_below_top_m ?? [];
  const off = strikes.values.off_centre_m ?? [];
  const [h, o] = [below[chosen], off[chosen]];
  if (!bag) return null;
  const scale = TALL_PX / bag.length_m;
  const wide = bag.diameter_m * scale;
  const y = scaleLinear([0, bag.length_m], [0, TALL_PX]);
  const x = scaleLinear([-bag.diameter_m / 2, bag.diameter_m / 2], [0, wide]);
  const say = (m: number, decimals: number) => {
    const [v, u, d] = convert(m, "m", decimals, units);
    return `${digits(v, d)} ${u}`;
  };
  if (h === null || h === undefined)
    return <p className="mt-3 text-soft">{recording.not_measured.find((n) => n.measure === "hit_below_top_m")?.why ?? "Where it landed was not to be had."}</p>;
  const sd = strikes.sds.hit_below_top_m?.[chosen] ?? 0;
  const sdOff = strikes.sds.off_centre_m?.[chosen] ?? 0;
  return (
    <figure className="mt-3 flex gap-5">
      <svg viewBox={`-2 -14 ${wide + 44} ${TALL_PX + 18}`} width={wide + 44} height={TALL_PX + 18} className="shrink-0" role="img" aria-label={`Hit ${say(h, 2)} below the top`}>
        <line x1={wide / 2} x2={wide / 2} y1={-14} y2={0} stroke="var(--ink)" strokeWidth={1.5} />
        <rect x={0} y={0} width={wide} height={TALL_PX} rx={10} fill="var(--raised)" stroke="var(--ink)" strokeWidth={1.5} />
        {bag.bands_used_m.map((b) => (
          <line key={b} x1={0} x2={wide} y1={y(b)} y2={y(b)} stroke="var(--line)" />
        ))}
        <line x1={x(0)} x2={x(0)} y1={0} y2={TALL_PX} stroke="var(--line)" strokeDasharray="3 4" />
        {(["head", "body", "low"] as const).map((name, i) => {
          const edges = [0, ...bag.bands_used_m, bag.length_m];
          return (
            <text key={name} x={wide + 6} y={y((edges[i]! + edges[i + 1]!) / 2) + 4} fontSize={12} fill="var(--soft)">
              {name}
            </text>
          );
        })}
        <rect x={-1} y={y(bag.sensor_below_top_m) - 5} width={6} height={10} fill="var(--soft)">
          <title>the unit</title>
        </rect>
        {strikes.number.length <= 400 &&
          strikes.number.map((number, i) => {
            const [a, b] = [below[i], off[i]];
            const other = i !== chosen && strikes.planned[i] === strikes.planned[chosen] && !strikes.excluded[i];
            return other && typeof a === "number" && typeof b === "number" ? <circle key={number} cx={x(b)} cy={y(a)} r={2.5} fill="var(--soft)" fillOpacity={0.5} /> : null;
          })}
        <ellipse cx={x(o ?? 0)} cy={y(h)} rx={Math.max(3, 2 * sdOff * scale)} ry={Math.max(3, 2 * sd * scale)} fill="var(--buoy)" fillOpacity={0.2} stroke="var(--buoy)" />
        <circle cx={x(o ?? 0)} cy={y(h)} r={4} fill="var(--buoy)" />
      </svg>
      <figcaption>
        <span className="block font-semibold">Where it landed</span>
        <span className="numeric text-soft">
          {say(h, 2)} below the top
          {o !== null && o !== undefined && <span className="block">{say(Math.abs(o), 3)} off centre</span>}
        </span>
        <span className="mt-2 block text-2xs text-soft">Drawn to scale. Grey: the others of this set.</span>
      </figcaption>
    </figure>
  );
}
