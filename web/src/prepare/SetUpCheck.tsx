import { useState } from "react";

/** What the coach looks at before the first strike; no unit sees most of it. */
const POINTS: [string, string][] = [
  ["Width and line", "feet under hips or shoulders, not on one line, not crossed"],
  ["Foot angles", "rear foot neither straight nor sideways"],
  ["Weight and heels", "even, or as the school has it; not on the toes, not stuck"],
  ["Knees", "slightly bent, no bend at the waist"],
  ["Guard and chin", "other hand at the face, elbows over the ribs, chin in, eyes on the target"],
  ["Fist and wrist", "closed, thumb below, knuckles, wrist and elbow in line"],
  ["Bag and space", "mount as last time, nobody near, units off the striking surface"],
];

export function SetUpCheck() {
  const [ticked, setTicked] = useState<ReadonlySet<string>>(new Set());
  const toggle = (name: string) => {
    const next = new Set(ticked);
    if (!next.delete(name)) next.add(name);
    setTicked(next);
  };
  return (
    <details className="mt-3 border-t border-line pt-2">
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        Set-up check, {ticked.size} of {POINTS.length}
      </summary>
      <ul>
        {POINTS.map(([name, look]) => (
          <li key={name}>
            <button role="checkbox" aria-checked={ticked.has(name)} className="flex min-h-12 w-full items-center gap-3 text-left" onClick={() => toggle(name)}>
              <span aria-hidden="true" className={`grid size-6 shrink-0 place-items-center rounded border-2 border-ink ${ticked.has(name) ? "bg-ink text-ground" : ""}`}>
                {ticked.has(name) ? "✓" : ""}
              </span>
              <span>
                <b>{name}</b> <span className="text-soft">{look}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
    </details>
  );
}
