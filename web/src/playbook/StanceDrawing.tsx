import type { Of } from "./entries";

const LEAD: [number, number] = [58, 30];
const REAR: [number, number] = [92, 84];
const REACH = 20; // of a foot from its middle

/** The feet from above, target at the top: dashed where they stood, solid where they end, and the weight between them.
 * Drawn for the left foot in front; left-handers mirror it. */
export function StanceDrawing({ card }: { card: Of<"strike"> }) {
  const share = (100 - (card.lead_weight_pct ?? 50)) / 100;
  const [x, y] = [LEAD[0] + share * (REAR[0] - LEAD[0]), LEAD[1] + share * (REAR[1] - LEAD[1])];
  const told = `Feet from above: lead foot turns ${card.lead_turn_deg ?? 0} degrees, rear foot ${card.rear_turn_deg ?? 0}; ${card.lead_weight_pct ?? 50} per cent of the weight over the lead foot`;
  return (
    <svg viewBox="0 0 150 116" className="h-36 w-46 shrink-0" role="img" aria-label={told}>
      <path d="M75 12V2M71 6l4-4 4 4" fill="none" stroke="var(--soft)" strokeWidth={1.5} />
      <line x1={LEAD[0]} y1={LEAD[1]} x2={REAR[0]} y2={REAR[1]} stroke="var(--line)" strokeWidth={1.5} />
      <Foot at={LEAD} begins={10} turns={card.lead_turn_deg ?? 0} ink="var(--oar)" />
      <Foot at={REAR} begins={45} turns={-(card.rear_turn_deg ?? 0)} ink="var(--buoy)" />
      <circle cx={x} cy={y} r={6} fill="var(--ink)" />
      <text x={LEAD[0] - REACH - 6} y={LEAD[1] - 8} fontSize={11} textAnchor="end" fill="var(--soft)">
        lead
      </text>
      <text x={112} y={96} fontSize={11} fill="var(--soft)">
        rear
      </text>
    </svg>
  );
}

/** A foot turns on its ball: the heel goes round. */
function Foot({ at: [x, y], begins, turns, ink }: { at: [number, number]; begins: number; turns: number; ink: string }) {
  const shape = `M0 ${-REACH * 0.55}C7 ${-REACH * 0.5} 7 2 5 ${REACH * 0.8}C4 ${REACH} -4 ${REACH} -5 ${REACH * 0.8}C-7 2 -7 ${-REACH * 0.5} 0 ${-REACH * 0.55}Z`;
  return (
    <g transform={`translate(${x} ${y})`}>
      {turns !== 0 && <path d={shape} transform={`rotate(${begins})`} fill="none" stroke={ink} strokeWidth={1.2} strokeDasharray="3 3" />}
      <path d={shape} transform={`rotate(${begins + turns})`} fill="var(--raised)" stroke={ink} strokeWidth={2} />
    </g>
  );
}
