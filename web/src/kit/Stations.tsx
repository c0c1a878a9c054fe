import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useBags } from "../api/queries";
import { useStations } from "../bag/heard/take";
import { Form, Labelled } from "../ui/Form";
import { Failed } from "../ui/state";
import { Whose } from "./Whose";

/** Hubs by the bags: each has a station here, and shows its token. */
export function Stations() {
  const stations = useStations();
  const queries = useQueryClient();
  const [making, setMaking] = useState(false);
  const [made, setMade] = useState<Schemas["TokenOut"] | null>(null);
  const revoke = useMutation({
    mutationFn: async (id: number) => unwrap(await client.DELETE("/api/stations/{station_id}", { params: { path: { station_id: id } } })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["stations"] }),
  });
  if (stations.error) return <Failed error={stations.error} />;
  return (
    <section id="stations" aria-label="Stations" className="mt-8">
      <div className="flex items-center justify-between">
        <h2 className="wide-title text-lg">Stations</h2>
        <button className="action min-h-11" aria-expanded={making} onClick={() => setMaking(!making)}>
          Make a station
        </button>
      </div>
      <p className="mt-1 text-soft">A hub by a bag gathers its units and sends what they measure. It shows its station's token.</p>
      {making && (
        <Make
          close={() => setMaking(false)}
          made={(token) => {
            setMade(token);
            setMaking(false);
          }}
        />
      )}
      {made && (
        <div role="status" className="mt-3 border-l-4 border-oar bg-shade p-3">
          <p>
            The token of {made.name}, shown this once: <code className="font-semibold break-all select-all">{made.token}</code>
          </p>
          <p className="mt-1 text-soft">
            Give it to the hub: <code className="break-all">agile-strike hub serial PORT --server ADDRESS --token TOKEN</code>
          </p>
          <button className="plain mt-1 min-h-11" onClick={() => setMade(null)}>
            I have it
          </button>
        </div>
      )}
      <ul className="mt-2">
        {stations.data?.map((s) => (
          <li key={s.id} className="border-t border-line">
            <div className="flex min-h-12 items-center gap-4">
              <b>{s.name}</b>
              <span className="text-soft">
                {s.bag}
                {s.simulated && ", simulated"}
                {s.student && `; ${s.student} stands there`}
              </span>
              <button className="plain ml-auto min-h-11" disabled={revoke.isPending} onClick={() => confirm(`Revoke the token of ${s.name}? Its hub is cut off at once; what was recorded stays.`) && revoke.mutate(s.id)}>
                Revoke
              </button>
            </div>
            <Whose station={s} />
          </li>
        ))}
        {stations.data?.length === 0 && <li className="border-t border-line py-2 text-soft">None yet.</li>}
      </ul>
    </section>
  );
}

function Make({ close, made }: { close: () => void; made: (token: Schemas["TokenOut"]) => void }) {
  const bags = useBags();
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const [bag, setBag] = useState<number | null>(null);
  const bagId = bag ?? bags.data?.[0]?.id;
  const make = useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/stations", { body: { name, bag_id: bagId! } })),
    onSuccess: async (token) => {
      await queries.invalidateQueries({ queryKey: ["stations"] });
      made(token);
    },
  });
  return (
    <Form submit="Make it" busy={make.isPending || !bagId} error={make.error} save={() => make.mutate()} close={close}>
      <div className="flex flex-wrap gap-4">
        <Labelled name="Called">
          <input className="field w-64" value={name} maxLength={60} required onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <Labelled name="By the bag">
          <select className="field w-64" value={bagId ?? ""} onChange={(e) => setBag(Number(e.target.value))}>
            {bags.data?.map((b) => (
              <option key={b.id} value={b.id}>
                {b.name}
              </option>
            ))}
          </select>
        </Labelled>
      </div>
    </Form>
  );
}
