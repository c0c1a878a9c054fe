import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { useRegistry, useZone } from "../api/queries";
import { day } from "../format";
import { Failed, Loading, Problem } from "../ui/state";
import { BLANK, usePlaybook, usePutBack, useTakeOff, useVersions, type Entry, type Kind } from "./entries";
import { EntryForm } from "./EntryForm";
import { EntryView } from "./views";

interface Props {
  kind: Kind;
  about: string;
  add?: string; //: what a new one is added by; none: there are no new ones
}

/** All entries of one kind: read, found, changed, taken off and put back, one by one. */
export function Entries({ kind, about, add }: Props) {
  const book = usePlaybook();
  const registry = useRegistry();
  const [open, setOpen] = useState(""); //: key of the entry that is changed; `new` for a new one
  const [typed, setTyped] = useState("");
  const failed = book.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void book.refetch()} />;
  if (!book.data || !registry.data) return <Loading what="the playbook" />;
  const own = book.data.filter((e) => e.kind === kind);
  const wanted = typed.trim().toLowerCase();
  const standing = own.filter((e) => !e.off && JSON.stringify(e.content).toLowerCase().includes(wanted));
  const off = own.filter((e) => e.off);
  return (
    <section>
      <div className="flex flex-wrap items-center gap-4">
        <p className="max-w-2xl flex-1 text-soft max-sm:basis-full">{about}</p>
        {own.length > 8 && <input type="search" className="field w-48" aria-label="Find in these" placeholder="Find" value={typed} onChange={(e) => setTyped(e.target.value)} />}
        {add && (
          <button className="action min-h-11 shrink-0" onClick={() => setOpen("new")}>
            {add}
          </button>
        )}
      </div>
      {open === "new" && <EntryForm content={BLANK[kind]} close={() => setOpen("")} />}
      {wanted && standing.length === 0 && <p className="mt-4 text-soft">Nothing here says “{typed.trim()}”.</p>}
      <ul className="mt-3 border-t border-line">
        {standing.map((e) => (
          <li key={e.key} className="border-b border-line py-3">
            {open === e.key ? <EntryForm content={e.content} entry={e} close={() => setOpen("")} /> : <One entry={e} book={book.data} registry={registry.data} change={() => setOpen(e.key)} />}
          </li>
        ))}
      </ul>
      {off.length > 0 && <TakenOff entries={off} />}
    </section>
  );
}

function One({ entry, book, registry, change }: { entry: Entry; book: Entry[]; registry: Schemas["Registry"]; change: () => void }) {
  const takeOff = useTakeOff();
  const name = entry.content.name;
  return (
    <article aria-label={name}>
      <div className="flex items-baseline gap-4">
        <h2 className="text-lg font-semibold first-letter:uppercase">{name}</h2>
        {entry.shipped ? entry.version > 0 && <span className="text-2xs text-soft">as this gym has it</span> : <span className="text-2xs text-soft">this gym’s own</span>}
        <span className="no-print ml-auto flex shrink-0 gap-4">
          {entry.kind !== "remarks" && (
            <button className="plain min-h-9" disabled={takeOff.isPending} aria-label={`Take ${name} off`} onClick={() => takeOff.mutate(entry)}>
              Take off
            </button>
          )}
          <button className="plain min-h-9" aria-label={`Change ${name}`} onClick={change}>
            Change
          </button>
        </span>
      </div>
      <EntryView entry={entry} registry={registry} book={book} />
      {entry.version > 0 && <Versions entry={entry} />}
    </article>
  );
}

const STATES: Record<string, string> = { own: "written", ours: "put back as it ships", off: "taken off" };

/** What was written of an entry before: any of it can stand again. */
function Versions({ entry }: { entry: Entry }) {
  return (
    <Disclosure as="div" className="no-print">
      <DisclosureButton className="plain min-h-9">Earlier versions</DisclosureButton>
      <DisclosurePanel>
        <VersionList entry={entry} />
      </DisclosurePanel>
    </Disclosure>
  );
}

function VersionList({ entry }: { entry: Entry }) {
  const zone = useZone();
  const versions = useVersions(entry.kind, entry.key);
  const back = usePutBack();
  const to = (version: number) => back.mutate({ kind: entry.kind, key: entry.key, to: version, version: entry.version });
  if (versions.error) return <Problem error={versions.error} />;
  if (!versions.data) return <Loading what="what was written" />;
  return (
    <ul className="border-l-2 border-line pl-3">
      {versions.data.map((v) => (
        <li key={v.version} className="flex min-h-9 flex-wrap items-center gap-x-4">
          <span className="numeric">{day(v.at, zone)}</span>
          <span>
            {STATES[v.state]} by {v.by}: {v.content.name}
          </span>
          {v.version === entry.version ? (
            <span className="text-soft">{entry.off ? "" : "stands now"}</span>
          ) : (
            v.state === "own" && (
              <button className="plain min-h-9" onClick={() => to(v.version)}>
                Let it stand again
              </button>
            )
          )}
        </li>
      ))}
      {entry.shipped && (
        <li className="flex min-h-9 items-center gap-4">
          As it ships
          <button className="plain min-h-9" onClick={() => to(0)}>
            Put it back
          </button>
        </li>
      )}
    </ul>
  );
}

function TakenOff({ entries }: { entries: Entry[] }) {
  const back = usePutBack();
  return (
    <section aria-label="Taken off" className="mt-6">
      <h2 className="font-semibold">Taken off</h2>
      <ul>
        {entries.map((e) => (
          <li key={e.key} className="flex min-h-11 items-center gap-4">
            <span className="first-letter:uppercase">{e.content.name}</span>
            {/* what stood before it was taken off: the version before this one, ours where there is none */}
            <button className="plain min-h-9" aria-label={`Put ${e.content.name} back`} onClick={() => back.mutate({ kind: e.kind, key: e.key, to: e.shipped && e.version === 1 ? 0 : e.version, version: e.version })}>
              Put back
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
