import { Link } from "react-router";

/** Where each unit sits on the student, what it brings, and what its absence costs. */
const PLACES = [
  { name: "Wrists", x: 86, y: 92, brings: "speed, path, tell, return, mass behind the strike", fix: "back of the forearm just above the wrist, x toward the fist; over the wrap, under the cuff" },
  { name: "Forearms", x: 108, y: 116, brings: "the same for elbows", fix: "within 5 cm of the elbow, off the striking surface" },
  { name: "Torso", x: 150, y: 96, brings: "turn rate, lean, shoulder tilt, order, separation", fix: "upper back or breastbone, z up, x to the front" },
  { name: "Pelvis", x: 150, y: 150, brings: "turn, order, sinking and lifting", fix: "back of the belt, on the bone, z up, x to the front" },
  { name: "Ankles", x: 124, y: 262, brings: "kicks, and how far the standing foot turns", fix: "outside of the shank above the ankle bone, z up" },
  { name: "Soles", x: 178, y: 292, brings: "where the weight is, the step, settling", fix: "in both shoes, or a board under each foot" },
];

const UNITS = [
  ["Bag", "16 g and more, 32 is better", "1000 a second; 400 at the least", "a contact lasts 10 to 25 ms"],
  ["Wrist, forearm, ankle", "16 g, 2000 °/s", "400 and more; 1000 is better", "limbs reach 16 g on the way"],
  ["Pelvis, torso", "16 g, 2000 °/s", "200 and more", "peaks of turning come 30 ms apart"],
  ["Soles or boards", "200 kg each, heel and forefoot apart", "100 and more", "a foot lands within 20 ms"],
];

const CHECKS = [
  "Units charged, ranges set, left and right where their labels say.",
  "Bag weighed, hung as last time, its unit at the height that Kit notes.",
  "Students stand still for five seconds, then three firm stamps with one foot, half a second to a second apart.",
  "Three stamps again at the end: they tie pelvis, torso and soles to the bag's clock.",
  "The bag’s mount holds, and nothing stands within its swing.",
  "No unit on a striking surface. No units in sparring or on a held partner.",
];

export function GuidePage() {
  return (
    <div className="mx-auto max-w-5xl p-6">
      <Link className="plain" to="/kit">
        Kit
      </Link>
      <h1 className="wide-title mt-1 text-2xl">What to strap where</h1>
      <div className="mt-4 grid grid-cols-[20rem_1fr] gap-10">
        <Student />
        <table className="w-full self-start text-left">
          <thead>
            <tr className="border-b border-line [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-semibold">
              <th>Unit</th>
              <th>How it is fixed</th>
              <th>Without it you lose</th>
            </tr>
          </thead>
          <tbody>
            {PLACES.map((p, i) => (
              <tr key={p.name} className="border-b border-line align-top [&>td]:py-1.5 [&>td]:pr-3">
                <td className="font-semibold whitespace-nowrap">
                  {i + 1} {p.name}
                </td>
                <td>{p.fix}</td>
                <td className="text-soft">{p.brings}</td>
              </tr>
            ))}
            <tr className="border-b border-line align-top [&>td]:py-1.5 [&>td]:pr-3">
              <td className="font-semibold whitespace-nowrap">7 Bag</td>
              <td>outside of the bag, a hand’s breadth or more below the top, out of reach of fists; z up, x straight out</td>
              <td className="text-soft">everything: contacts are what all else hangs on</td>
            </tr>
          </tbody>
        </table>
      </div>
      <h2 className="wide-title mt-8 text-lg">Before class</h2>
      <ol className="mt-2 list-decimal space-y-1 pl-5">
        {CHECKS.map((c) => (
          <li key={c}>{c}</li>
        ))}
      </ol>
      <h2 className="wide-title mt-8 text-lg">What a unit must be able to do</h2>
      <table className="mt-2 w-full text-left">
        <tbody>
          {UNITS.map((row) => (
            <tr key={row[0]} className="border-b border-line [&>td]:py-1.5 [&>td]:pr-3">
              {row.map((cell, i) => (
                <td key={cell} className={i === 0 ? "font-semibold" : i === 3 ? "text-soft" : ""}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-3 text-soft">Fifteen degrees off when strapped on does no harm; slipping during class does. Each unit keeps its own clock: seconds of difference are found and taken off.</p>
    </div>
  );
}

/** A figure in guard beside a bag, units as numbered squares. */
function Student() {
  return (
    <svg viewBox="0 0 300 310" role="img" aria-label="Where the units sit on a student and on the bag" className="w-full">
      <g fill="none" stroke="var(--soft)" strokeWidth={7} strokeLinecap="round" strokeLinejoin="round">
        <circle cx={146} cy={40} r={17} strokeWidth={4} />
        <path d="M150 66 L152 150" strokeWidth={16} strokeOpacity={0.35} />
        <path d="M148 74 L106 112 L78 84 M150 76 L176 116 L132 92" />
        <path d="M152 152 L124 208 L128 278 L110 282 M154 152 L184 206 L190 276 L172 282" />
      </g>
      <rect x={16} y={30} width={44} height={170} rx={10} fill="var(--raised)" stroke="var(--ink)" strokeWidth={2} />
      <path d="M38 30 V6" stroke="var(--ink)" strokeWidth={2} />
      {[...PLACES.map((p) => [p.x, p.y] as const), [60, 66] as const].map(([x, y], i) => (
        <g key={`${x}-${y}`}>
          <rect x={x - 9} y={y - 9} width={18} height={18} rx={3} fill="var(--oar)" />
          <text x={x} y={y + 4.5} textAnchor="middle" fontSize={13} fontWeight={700} fill="var(--ground)">
            {i + 1}
          </text>
        </g>
      ))}
    </svg>
  );
}
