import type { Schemas } from "../api/client";

export interface Phase {
  name: string;
  from: number;
  to: number;
}

export interface ThreadPoint {
  lane: "lead_load_pct" | "pelvis_deg_s" | "torso_deg_s" | "speed_m_s" | "force";
  ms: number;
  label: string;
}

const GATHER_MS = 300;
const ONSET = 0.1;

/** Named stretches of a strike, in milliseconds from contact: from what the server measured. */
export function phasesOf(strikes: Schemas["Strikes"], i: number, pelvis: { ms: number[]; values: number[] } | undefined): Phase[] {
  const launch = strikes.launch_ms[i];
  if (launch === null || launch === undefined) return [];
  const contact = strikes.values.contact_ms?.[i] ?? 15;
  const back = strikes.values.return_ms?.[i] ?? 300;
  const drive = Math.min(pelvis ? driveFrom(pelvis, launch) : launch, launch - 1);
  return [
    { name: "gather", from: launch - GATHER_MS, to: drive },
    { name: "drive", from: drive, to: launch },
    { name: "throw", from: launch, to: 0 },
    { name: "push", from: 0, to: contact },
    { name: "return", from: contact, to: contact + back },
  ];
}

/** Where the hips begin to turn: the last time before launch that their rate passes a tenth of its peak. */
function driveFrom(pelvis: { ms: number[]; values: number[] }, launch: number): number {
  const until = pelvis.ms.findIndex((ms) => ms > 0);
  const peak = Math.max(...pelvis.values.slice(0, until < 0 ? undefined : until));
  for (let k = pelvis.ms.findIndex((ms) => ms >= launch); k > 0; k--)
    if (pelvis.values[k]! < ONSET * peak) return pelvis.ms[k]!;
  return launch;
}

/** The points that the thread runs through, floor first. */
export function threadOf(strikes: Schemas["Strikes"], i: number, forcePeakMs: number | undefined): ThreadPoint[] {
  const out: ThreadPoint[] = [];
  const before = (name: string) => strikes.values[name]?.[i];
  const step = before("step_before_ms");
  if (step !== null && step !== undefined) out.push({ lane: "lead_load_pct", ms: -step, label: `foot lands ${Math.round(step)} ms` });
  for (const [lane, name] of [
    ["pelvis_deg_s", "pelvis_before_ms"],
    ["torso_deg_s", "torso_before_ms"],
    ["speed_m_s", "hand_before_ms"],
  ] as const) {
    const ms = before(name);
    if (ms !== null && ms !== undefined) out.push({ lane, ms: -ms, label: `${Math.round(ms)} ms` });
  }
  if (forcePeakMs !== undefined) out.push({ lane: "force", ms: forcePeakMs, label: "" });
  return out;
}
