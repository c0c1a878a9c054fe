import { useState } from "react";
import { useSchools } from "../api/queries";
import { limbName } from "../format";
import type { LabelText } from "./editing";
import { useReading } from "./reading";
import { Form, Labelled } from "../ui/Form";
import { StrikePicker } from "../ui/StrikePicker";
import { Window } from "../ui/Window";

interface Props {
  close: () => void;
  label: (text: LabelText) => void;
}

/** What a run of strikes was: code, limb, height, levels of factors, school and gear. */
export function LabelDialog({ close, label }: Props) {
  const { strikes, registry, chosen, span } = useReading();
  const count = span[1] - span[0] + 1;
  const first = strikes.sets.find((one) => one.id === strikes.set_id[span[0]]);
  const limb = strikes.limb[chosen]!;
  const schools = useSchools();
  const [code, setCode] = useState(first?.code ?? strikes.guess[span[0]] ?? "");
  const [by, setBy] = useState(first?.limb || (limb === "unknown" ? "" : limb));
  const [level, setLevel] = useState(first?.level ?? "");
  const [school, setSchool] = useState(first?.school_id ?? null);
  const [gear, setGear] = useState(first?.gear ?? "");
  const [levels, setLevels] = useState<Record<string, string>>(first?.levels ?? {});
  const [factor, setFactor] = useState("");
  return (
    <Window close={close} title={<>What {count === 1 ? "was this strike" : `were these ${count} strikes`}?</>} width="xl">
      <Form submit="Label" busy={false} error={null} save={() => label({ code, limb: by, level, school_id: school, gear, levels })} close={close} className="mt-3">
        <div className="grid grid-cols-2 gap-3">
        <Labelled name="Strike">
          <StrikePicker value={code} onChange={setCode} autoFocus />
        </Labelled>
        <Choice label="Limb" value={by} options={registry.limbs.map((l) => [l, limbName(l)])} none="as measured" onChange={setBy} />
        <Choice label="Height" value={level} options={["head", "body", "low"].map((l) => [l, l])} none="not said" onChange={setLevel} />
        <Choice label="School" value={school === null ? "" : String(school)} options={(schools.data ?? []).map((s) => [String(s.id), s.name])} none="none" onChange={(v) => setSchool(v ? Number(v) : null)} />
        <Labelled name="Gear" className="col-span-2">
          <input className="field w-full" placeholder="gloves 12 oz, wraps" maxLength={80} value={gear} onChange={(e) => setGear(e.target.value)} />
        </Labelled>
        <div className="col-span-2">
          <span className="mb-1 block font-semibold">What was changed in them</span>
          {Object.entries(levels).map(([name, value]) => (
            <div key={name} className="flex items-center justify-between border-b border-line py-1">
              <span>
                {name}: <b>{value}</b>
              </span>
              <button type="button" className="plain py-1" onClick={() => setLevels(Object.fromEntries(Object.entries(levels).filter(([n]) => n !== name)))}>
                Take off
              </button>
            </div>
          ))}
          <div className="mt-2 grid grid-cols-2 gap-3">
            <Choice label="The change" value={factor} options={Object.keys(registry.factors).map((f) => [f, f])} none="choose" onChange={setFactor} />
            {factor && <Choice label="How" value="" options={registry.factors[factor]!.map((l) => [l, l])} none="choose" onChange={(v) => v && setLevels({ ...levels, [factor]: v })} />}
          </div>
        </div>
        </div>
      </Form>
    </Window>
  );
}

interface ChoiceProps {
  label: string;
  value: string;
  options: [string, string][];
  none: string;
  onChange: (value: string) => void;
}

function Choice({ label, value, options, none, onChange }: ChoiceProps) {
  return (
    <label>
      <span className="mb-1 block font-semibold">{label}</span>
      <select className="field w-full" value={value} onChange={(e) => onChange(e.target.value)}>
        <option value="">{none}</option>
        {options.map(([v, text]) => (
          <option key={v} value={v}>
            {text}
          </option>
        ))}
      </select>
    </label>
  );
}
