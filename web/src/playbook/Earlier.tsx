import { Disclosure, DisclosureButton, DisclosurePanel } from "@headlessui/react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useZone } from "../api/queries";
import { day } from "../format";
import { Loading, Problem } from "../ui/state";

interface Version {
  version: number;
  at: string;
  by: string; //: empty: as it was before anybody changed it
}

interface Props<V extends Version> {
  about: string; //: whose versions, as a key
  load: () => Promise<V[]>;
  told: (v: V) => string;
  stand: (v: V) => Promise<unknown>; //: saves it once more, as it was
  refresh: readonly string[];
}

/** What was written before, by whom and when; any of it can stand again. Nothing is shown before the first change. */
export function Earlier<V extends Version>(props: Props<V>) {
  return (
    <Disclosure as="div" className="no-print">
      <DisclosureButton className="plain min-h-9">Earlier versions</DisclosureButton>
      <DisclosurePanel>
        <List {...props} />
      </DisclosurePanel>
    </Disclosure>
  );
}

function List<V extends Version>({ about, load, told, stand, refresh }: Props<V>) {
  const zone = useZone();
  const queries = useQueryClient();
  const versions = useQuery({ queryKey: ["written", about], queryFn: load });
  const again = useMutation({
    mutationFn: stand,
    onSettled: () => Promise.all([["written", about], ...refresh.map((r) => [r])].map((queryKey) => queries.invalidateQueries({ queryKey }))),
  });
  if (versions.error) return <Problem error={versions.error} />;
  if (!versions.data) return <Loading what="what was written" />;
  if (versions.data.length === 0) return <p className="text-soft">Nobody has changed it yet.</p>;
  return (
    <ul className="border-l-2 border-line pl-3">
      {versions.data.map((v, k) => (
        <li key={v.version} className="flex min-h-9 flex-wrap items-center gap-x-4">
          <span className="numeric">{v.by && day(v.at, zone)}</span>
          <span>
            {v.by ? `written by ${v.by}` : "before it was changed"}: {told(v)}
          </span>
          {k === 0 ? (
            <span className="text-soft">stands now</span>
          ) : (
            <button className="plain min-h-9" disabled={again.isPending} onClick={() => again.mutate(v)}>
              Let it stand again
            </button>
          )}
        </li>
      ))}
      <Problem error={again.error} />
    </ul>
  );
}
