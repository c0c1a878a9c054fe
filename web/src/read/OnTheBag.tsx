import { scaleLinear } from "d3-scale";
import { convert, digits } from "../format";
import { useReading } from "./reading";

const LONG_PX = 330;

/** Where the push went through the bag, to scale: the bag lies on its side, its top to the left. */
export function OnTheBag() {
  const { recording, strikes, shown: chosen, units } = useReading();
  const bag = recording.bag;
  const below = strikes.values.hit_below_top_m ?? [];
  const off = strikes.values.off_centre_m ?? [];
  const [h, o] = [below[chosen], off[chosen]];
  if (!bag) return null;
  const scale = LONG_PX / bag.length_m;
  const across = bag.diameter_m * scale;
  const x = scaleLinear([0, bag.length_m], [0, LONG_PX]);
  const y = scaleLinear([-bag.diameter_m / 2, bag.diameter_m / 2], [across, 0]);
  const say = (m: number, decimals: number) => {
    const [v, u, d] = convert(m, "m", decimals, units);
    return `${digits(v, d)} ${u}`;
  };
  if (h === null || h === undefined)
    return <p className="mt-3 text-soft">{recording.not_measured.find((n) => n.measure === "hit_below_top_m")?.why ?? "Where it landed was not to be had."}</p>;
  const sd = strikes.sds.hit_below_top_m?.[chosen] ?? 0;
  const sdOff = strikes.sds.off_centre_m?.[chosen] ?? 0;
  return (
    <figure className="mt-3">
      <figcaption className="flex justify-between">
        <span className="font-semibold">Where it landed</span>
        <span className="numeric text-soft">
          {say(h, 2)} below the top{o === null || o === undefined ? "" : `, ${say(Math.abs(o), 3)} off centre`}
        </span>
      </figcaption>
      <svg viewBox={`-2 -2 ${LONG_PX + 86} ${across + 24}`} className="mt-1 w-full" role="img" aria-label={`Hit ${say(h, 2)} below the top`}>
        <rect x={0} y={0} width={LONG_PX} height={across} rx={12} fill="var(--raised)" stroke="var(--ink)" strokeWidth={1.5} />
        {bag.bands_used_m.map((b) => (
          <line key={b} x1={x(b)} x2={x(b)} y1={0} y2={across} stroke="var(--line)" />
        ))}
        <line x1={0} x2={LONG_PX} y1={y(0)} y2={y(0)} stroke="var(--line)" strokeDasharray="3 4" />
        {(["head", "body", "low"] as const).map((name, i) => {
          const edges = [0, ...bag.bands_used_m, bag.length_m];
          return (
            <text key={name} x={x((edges[i]! + edges[i + 1]!) / 2)} y={across + 16} fontSize={12} textAnchor="middle" fill="var(--soft)">
              {name}
            </text>
          );
        })}
        <rect x={x(bag.sensor_below_top_m) - 5} y={-1} width={10} height={6} fill="var(--soft)">
          <title>the unit</title>
        </rect>
        {strikes.number.length <= 400 &&
          strikes.number.map((number, i) => {
            const [a, b] = [below[i], off[i]];
            const other = i !== chosen && strikes.planned[i] === strikes.planned[chosen] && !strikes.excluded[i];
            return other && typeof a === "number" && typeof b === "number" ? <circle key={number} cx={x(a)} cy={y(b)} r={2.5} fill="var(--soft)" fillOpacity={0.5} /> : null;
          })}
        <ellipse cx={x(h)} cy={y(o ?? 0)} rx={Math.max(3, 2 * sd * scale)} ry={Math.max(3, 2 * sdOff * scale)} fill="var(--buoy)" fillOpacity={0.2} stroke="var(--buoy)" />
        <circle cx={x(h)} cy={y(o ?? 0)} r={4} fill="var(--buoy)" />
        <text x={LONG_PX + 8} y={across / 2 - 4} fontSize={12} fill="var(--soft)">
          top on the
        </text>
        <text x={LONG_PX + 8} y={across / 2 + 11} fontSize={12} fill="var(--soft)">
          left, to scale
        </text>
      </svg>
    </figure>
  );
}
