import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Refused, type Schemas } from "../api/client";
import { sendFile, useCalibrations, useKitUnits, useZone } from "../api/queries";
import { convert, day, digits, longDay, placeName, unitName } from "../format";
import { BagOptions } from "../ui/BagOptions";
import { Failed, Problem } from "../ui/state";
import { FitPicture } from "./FitPicture";
import { Touched } from "./Touched";
import { Labelled } from "../ui/Form";
import { Quantity } from "../ui/Quantity";
import { useUnits } from "../ui/settings";

const KINDS: Record<string, { name: string; steps: string }> = {
  rests: { name: "A unit, from six positions at rest", steps: "Start recording. Lay the unit on each of its six sides for two seconds, hands off. Stop, and bring the file." },
  swing: { name: "A bag's inertia, from its free swing", steps: "Hang the bag by its top edge with the unit on. Start recording, let it swing a hand's breadth, hands off for half a minute. Stop, and bring the file." },
  ball: { name: "The whole chain, from a swung ball", steps: "Hang a ball of known mass beside the bag. Let it swing into the bag three times or more, and note how fast it came and left (√(2 g h) from its heights). Bring the recording." },
};

/** Calibrations from recordings: made, listed with their fit, and what they touch analysed again. */
export function Calibrations({ bags }: { bags: Schemas["BagOut"][] }) {
  const rows = useCalibrations();
  const [making, setMaking] = useState(false);
  if (rows.error) return <Failed error={rows.error} retry={() => void rows.refetch()} />;
  return (
    <section className="mt-10">
      <div className="flex items-center justify-between">
        <h2 className="wide-title text-2xl">Calibrations</h2>
        <button className="action" aria-expanded={making} onClick={() => setMaking(!making)}>
          Calibrate from a recording
        </button>
      </div>
      {making && <Make bags={bags} done={() => setMaking(false)} />}
      {rows.data?.length === 0 && !making && <p className="mt-2 text-soft">None yet. An uncalibrated unit costs about a per cent of every force; a bag’s untimed inertia costs hit height.</p>}
      {rows.data?.map((c) => (
        <Row key={c.id} calibration={c} />
      ))}
    </section>
  );
}

function Make({ bags, done }: { bags: Schemas["BagOut"][]; done: () => void }) {
  const queries = useQueryClient();
  const kit = useKitUnits();
  const [kind, setKind] = useState("rests");
  const [unit, setUnit] = useState("");
  const rested = kit.data?.filter((u) => !u.last_place.endsWith("sole")) ?? [];
  const chosenUnit = unit || String(rested[0]?.id ?? "");
  const [bag, setBag] = useState(String(bags[0]?.id ?? ""));
  const [pivot, setPivot] = useState<number | null>(0);
  const [ball, setBall] = useState<number | null>(null);
  const [units] = useUnits();
  const [perSpeed, speedUnit] = convert(1, "m/s", 1, units);
  const [speeds, setSpeeds] = useState("");
  const picker = useRef<HTMLInputElement>(null);
  const make = useMutation({
    mutationFn: async (file: File) => {
      const inSi = perSpeed === 1 ? speeds : speeds.replace(/\d+(\.\d+)?/g, (v) => (Number(v) / perSpeed).toFixed(4));
      const query = new URLSearchParams({ kind, bag_id: bag, pivot_above_top_m: String(pivot ?? 0), ball_kg: String(ball ?? 0), speeds: inSi });
      if (kind === "rests") {
        query.delete("bag_id");
        if (chosenUnit) query.set("unit_id", chosenUnit);
        else query.set("placement", "bag");
      }
      return sendFile<Schemas["CalibrationOut"]>(`/api/calibrations?${query}`, file, () => undefined, new AbortController().signal);
    },
    onSuccess: async () => {
      for (const key of ["calibrations", "units", "bags"]) await queries.invalidateQueries({ queryKey: [key] });
      done();
    },
  });
  return (
    <div className="mt-3 border-y border-line py-4">
      <div className="grid grid-cols-3 items-end gap-3">
        <Labelled name="What" className="col-span-2">
          <select className="field w-full" value={kind} onChange={(e) => setKind(e.target.value)}>
            {Object.entries(KINDS).map(([key, k]) => (
              <option key={key} value={key}>
                {k.name}
              </option>
            ))}
          </select>
        </Labelled>
        {kind === "rests" ? (
          <Labelled name="Unit">
            <select className="field w-full" value={chosenUnit} onChange={(e) => setUnit(e.target.value)}>
              {rested.length === 0 && <option value="">the one on the bag</option>}
              {rested.map((u) => (
                <option key={u.id} value={u.id}>
                  {unitName(u)}
                </option>
              ))}
            </select>
          </Labelled>
        ) : (
          <Labelled name="Bag">
            <select className="field w-full" value={bag} onChange={(e) => setBag(e.target.value)}>
              <BagOptions bags={bags} />
            </select>
          </Labelled>
        )}
        {kind === "swing" && (
          <Quantity name="Pivot above the top" unit="m" decimals={3} value={pivot} onChange={setPivot} />
        )}
        {kind === "ball" && (
          <>
            <Quantity name="Ball" unit="kg" decimals={3} value={ball} onChange={setBall} />
            <Labelled name={`Speeds in and out, ${speedUnit}, one pair a hit`} className="col-span-2">
              <input className="field w-full" placeholder="3.1 1.2, 3.0 1.1, 3.1 1.2" value={speeds} onChange={(e) => setSpeeds(e.target.value)} />
            </Labelled>
          </>
        )}
      </div>
      <p className="mt-3 text-soft">{KINDS[kind]!.steps}</p>
      <input
        ref={picker}
        type="file"
        className="sr-only"
        tabIndex={-1}
        aria-label="Calibration recording"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) make.mutate(file);
          e.target.value = "";
        }}
      />
      <div className="mt-3 flex items-center gap-4">
        <button className="action-main" disabled={make.isPending} onClick={() => picker.current?.click()}>
          {make.isPending ? "Fitting …" : "Choose the recording"}
        </button>
        <button className="plain" onClick={done}>
          Cancel
        </button>
        <Problem error={make.error instanceof Refused ? make.error : null} />
      </div>
    </div>
  );
}

function Row({ calibration }: { calibration: Schemas["CalibrationOut"] }) {
  const zone = useZone();
  const [open, setOpen] = useState(false);
  return (
    <article className="mt-3 grid grid-cols-[1fr_22rem] gap-8 border-t border-line pt-3">
      <div>
        <h3 className="font-semibold">
          {placeName(calibration.unit) || calibration.bag}: {words(calibration)}
        </h3>
        <p className="text-soft">
          {day(calibration.made_at, zone)}; trusted until {longDay(calibration.expires_on)}
        </p>
        <button className="plain mt-1 py-1" aria-expanded={open} onClick={() => setOpen(!open)}>
          What it touches
        </button>
        {open && <Touched id={calibration.id} zone={zone} />}
      </div>
      <FitPicture kind={calibration.kind} drawn={calibration.drawn} />
    </article>
  );
}

function words(c: Schemas["CalibrationOut"]): string {
  const n = (key: string) => Number(c.result[key]);
  if (c.kind === "rests") return `offset good to ±${digits(2 * n("offset_sd_m_s2"), 3)} m/s², scale to ±${digits(200 * n("scale_sd"), 2)} % (as delivered, rest was off by ${digits(n("before_m_s2"), 2)} m/s²)`;
  if (c.kind === "swing") return `one swing takes ${digits(n("period_s"), 3)} s, inertia ${digits(n("inertia_cm_kg_m2"), 2)} ±${digits(2 * n("inertia_sd_kg_m2"), 2)} kg m² (before: ${digits(n("before_kg_m2"), 2)})`;
  return `gain ${digits(n("gain"), 3)} ±${digits(2 * n("gain_sd"), 3)} from ${n("hits")} hits`;
}
