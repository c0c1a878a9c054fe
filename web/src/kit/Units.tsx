import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useKitUnits, useZone } from "../api/queries";
import { day, digits, longDay, placeName, unitName } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Failed, Loading } from "../ui/state";

const G = 9.80665;
const LOW_BATTERY = 25;

type Unit = Schemas["KitUnitOut"];

/** The units by their own names, as the last recordings showed them. */
export function Units() {
  const units = useKitUnits();
  const [naming, setNaming] = useState<number | null>(null);
  if (units.error) return <Failed error={units.error} retry={() => void units.refetch()} />;
  if (!units.data) return <Loading what="the units" />;
  return (
    <section className="mt-10">
      <h2 className="wide-title text-2xl">Units</h2>
      {units.data.length === 0 ? (
        <p className="mt-2 text-soft">Units appear here with the first recording that they are in.</p>
      ) : (
        <div className="relative overflow-x-auto"><table className="mt-2 w-full text-left">
          <thead className="text-soft">
            <tr className="border-b border-line [&>th]:py-1.5 [&>th]:pr-5 [&>th]:font-semibold">
              <th>Unit</th>
              <th>Last worn at</th>
              <th className="text-right">Samples a second</th>
              <th className="text-right">Ends at</th>
              <th className="text-right">Battery</th>
              <th>Last seen</th>
              <th>Calibrated</th>
              <th>
                <span className="sr-only">Name it</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {units.data.map((u) => (
              <Row key={u.id} unit={u} naming={naming === u.id} name={(on) => setNaming(on ? u.id : null)} />
            ))}
          </tbody>
        </table></div>
      )}
    </section>
  );
}

function Row({ unit: u, naming, name }: { unit: Unit; naming: boolean; name: (on: boolean) => void }) {
  const zone = useZone();
  const late = u.expires_on !== null && new Date(u.expires_on) < new Date();
  const low = u.battery_pct !== null && u.battery_pct < LOW_BATTERY;
  return (
    <>
      <tr className="border-b border-line [&>td]:py-1.5 [&>td]:pr-5">
        <td>
          <span className="font-semibold">{unitName(u)}</span>
          <span className="block text-2xs text-soft">{[u.name && u.serial, u.model_text, `${u.recordings} ${u.recordings === 1 ? "recording" : "recordings"}`].filter(Boolean).join(", ")}</span>
        </td>
        <td>{placeName(u.last_place)}</td>
        <td className="numeric text-right">{u.rate_hz ? digits(u.rate_hz, 0) : "not told"}</td>
        <td className="numeric text-right">{u.accel_full_scale_m_s2 ? `${digits(u.accel_full_scale_m_s2 / G, 0)} g` : "not told"}</td>
        <td className={`numeric text-right ${low ? "font-semibold text-buoy-ink" : ""}`}>
          {u.battery_pct === null ? <span className="text-soft">not told</span> : `${digits(u.battery_pct, 0)} %${low ? ", charge it" : ""}`}
        </td>
        <td>{day(u.last_seen, zone)}</td>
        <td className={late ? "font-semibold text-buoy-ink" : ""}>
          {u.calibrated_on ? `${longDay(u.calibrated_on)}${late ? ", too long ago" : ""}` : <span className="text-soft">as delivered</span>}
        </td>
        <td className="text-right">
          <button className="plain min-h-11" aria-expanded={naming} aria-label={`Name ${unitName(u)}`} onClick={() => name(!naming)}>
            Name
          </button>
        </td>
      </tr>
      {naming && (
        <tr>
          <td colSpan={8}>
            <NameForm unit={u} close={() => name(false)} />
          </td>
        </tr>
      )}
    </>
  );
}

/** A name of the gym's own; and the serial, where no file ever told it. */
function NameForm({ unit, close }: { unit: Unit; close: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(unit.name);
  const [serial, setSerial] = useState(unit.serial);
  const save = useMutation({
    mutationFn: async () => unwrap(await client.PUT("/api/units/{unit_id}", { params: { path: { unit_id: unit.id } }, body: { name, serial, version: unit.version } })),
    onSuccess: async () => {
      for (const key of ["units", "calibrations", "evening"]) await queries.invalidateQueries({ queryKey: [key] });
      close();
    },
  });
  return (
    <Form submit="Save" busy={save.isPending} error={save.error} save={() => save.mutate()} close={close} className="border-b border-line py-3">
      <div className="grid grid-cols-[16rem_16rem_1fr] items-end gap-3">
        <Labelled name="What you call it">
          <input className="field w-full" autoFocus maxLength={60} value={name} onChange={(e) => setName(e.target.value)} />
        </Labelled>
        <Labelled name="Serial, as on its case">
          <input className="field w-full" maxLength={60} value={serial} onChange={(e) => setSerial(e.target.value)} />
        </Labelled>
        <p className="text-soft">{unit.serial ? "Its recordings and calibrations are its own, wherever it is worn." : "No file told its serial: until you do, whatever is worn there counts as this unit."}</p>
      </div>
    </Form>
  );
}
