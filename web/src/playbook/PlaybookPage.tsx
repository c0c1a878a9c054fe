import { Link, useSearchParams } from "react-router";
import { Calls } from "./Calls";
import { Entries } from "./Entries";
import { Schools } from "./Schools";
import type { ReactNode } from "react";

const PARTS: [key: string, name: string, shown: ReactNode][] = [
  ["strikes", "Strikes", <Entries key="strikes" kind="strike" about="Counted parts, weight, end and mistakes, as they are taught here. Lead and rear: left-handers mirror. The other hand stays at the face unless a card says otherwise." add="Add a card" />],
  ["drills", "Drills", <Entries key="drills" kind="drill" about="Ladders from the easiest step on. The next step comes when ten in a row are clean; speed comes last." add="Add a drill" />],
  ["signs", "What asks for which", <Entries key="signs" kind="sign" about="What is seen in an evening’s strikes, and the drill that it asks for. A school’s own range goes before the edge here." add="Add a rule" />],
  ["schools", "Schools", <Schools key="schools" />],
  ["changes", "Changes to try", <Entries key="changes" kind="factor" about="What a trial can change, and to what." add="Add a change" />],
  ["remarks", "Remarks", <Entries key="remarks" kind="remarks" about="What you say of a strike in one tap, by what struck. A word that you take off stays on the strikes that have it." />],
  ["setup", "Set-up check", <Entries key="setup" kind="point" about="What you look at before the first strike. It is ticked in Prepare and kept with the evening." add="Add a point" />],
  ["calls", "Calls", <Calls key="calls" />],
];

/** The gym's own playbook: seeded with ours, changed at will, every version kept. */
export function PlaybookPage() {
  const [params] = useSearchParams();
  const [key, , shown] = PARTS.find(([k]) => k === params.get("part")) ?? PARTS[0]!;
  return (
    <div className="mx-auto max-w-5xl p-6">
      <h1 className="wide-title text-2xl">Playbook</h1>
      <nav aria-label="Parts of the playbook" className="no-print mt-2 mb-4 flex flex-wrap gap-x-6 border-b border-line">
        {PARTS.map(([k, name]) => (
          <Link key={k} to={`/playbook?part=${k}`} aria-current={k === key ? "page" : undefined} className={`-mb-px inline-flex min-h-11 items-center border-b-3 ${k === key ? "border-ink font-semibold" : "border-transparent text-soft"}`}>
            {name}
          </Link>
        ))}
      </nav>
      {shown}
    </div>
  );
}
