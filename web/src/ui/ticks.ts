import { scaleLinear } from "d3-scale";
import { convert, digits, type System } from "../format";

export interface Tick {
  at: number; //: SI, as the scale takes it
  text: string;
}

/** Where an axis has its ticks, and what stands at them: round in the units that are set. */
export function roundTicks(scale: { domain: () => number[] }, count: number, unit: string, system: System): Tick[] {
  const factor = convert(1, unit, 0, system)[0];
  const shown = scaleLinear(scale.domain().map((v) => v * factor) as [number, number], [0, 1]).ticks(count);
  const step = shown.length > 1 ? Math.abs(shown[1]! - shown[0]!) : 1;
  const decimals = Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
  return shown.map((v) => ({ at: v / factor, text: digits(v, decimals) }));
}
