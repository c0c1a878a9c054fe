import type { Schemas } from "../api/client";
import { findMeasure } from "../format";

/** What was said of strikes against what the units say of the same. */
export function Heard({ heard, registry }: { heard: Schemas["HeardOut"][]; registry: Schemas["Registry"] }) {
  if (heard.length === 0) return null;
  return (
    <section aria-label="Your eye and the units" className="mt-4">
      <h3 className="font-semibold">Your eye and the units</h3>
      <ul className="mt-1">
        {heard.map((h) => (
          <li key={h.what} className="border-b border-line py-1">
            <b>{h.what}</b> <span className="numeric">×{h.strikes}</span> <span className="text-soft">{againstUnits(h, registry)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function againstUnits(h: Schemas["HeardOut"], registry: Schemas["Registry"]): string {
  if (!h.measure) return "No unit sees this.";
  const label = (findMeasure(registry, h.measure)?.label ?? h.measure).toLowerCase();
  if (h.told === 0) return `The units can’t tell in these: ${label} is not there, or too close to its edge.`;
  const others = h.others_told > 0 ? ` Of the others it shows in ${h.others_shown} of ${h.others_told}.` : "";
  return `By ${label} the units saw it in ${h.shown} of ${h.told}.${others}`;
}
