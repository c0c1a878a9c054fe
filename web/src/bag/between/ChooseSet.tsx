import { useState } from "react";
import type { Coming } from "../heard/take";
import { usePlannedName } from "../../ui/StrikePicker";
import { Window } from "../../ui/Window";
import { Radios } from "../../ui/Radios";

const CODES = ["lead-straight", "rear-straight", "lead-hook", "rear-hook", "lead-uppercut", "rear-uppercut", "lead-elbow-across", "rear-elbow-across", "lead-knee-straight", "rear-knee-straight", "lead-round", "rear-round"];
const HOW_MANY = [5, 8, 10, 20];
const LEVELS = ["head", "body", "low"];

/** A set that nobody planned: which strike, how high, how many. */
export function ChooseSet({ open, close, begin, go: goes = "Begin set" }: { open: boolean; close: () => void; begin: (what: Coming) => void; go?: string }) {
  const plannedName = usePlannedName();
  const [code, setCode] = useState(CODES[1]!);
  const [level, setLevel] = useState("head");
  const [strikes, setStrikes] = useState(10);
  const go = () => {
    close();
    begin({ planned_id: null, trial_id: null, block: null, blocks: 0, family: "hand", code, limb: "", level, levels: {}, strikes, rest_s: null });
  };
  return (
    <Window open={open} close={close} title="Another set" width="3xl" far>
      <Choice name="Strike" values={CODES} chosen={code} choose={setCode} tell={plannedName} wide />
      <Choice name="Height" values={LEVELS} chosen={level} choose={setLevel} tell={(l) => l} />
      <Choice name="Strikes" values={HOW_MANY} chosen={strikes} choose={setStrikes} tell={String} />
      <div className="mt-5 flex gap-3">
        <button className="action-main min-h-16 flex-1 text-xl" onClick={go}>
          {goes}
        </button>
        <button className="action min-h-16 px-6 text-lg" onClick={close}>
          Not now
        </button>
      </div>
    </Window>
  );
}

/** One of a few, each a target for gloves. */
export function Choice<T extends string | number>({ name, values, chosen, choose, tell, wide, half }: { name: string; values: T[]; chosen: T; choose: (v: T) => void; tell: (v: T) => string; wide?: boolean; half?: boolean }) {
  return (
    <div className="mt-4">
      <p className="font-semibold">{name}</p>
      <Radios
        name={name}
        values={values}
        chosen={chosen}
        choose={choose}
        tell={tell}
        className={`mt-1 grid gap-2 ${wide ? "grid-cols-2 md:grid-cols-4" : half ? "grid-cols-2" : values.length < 5 ? "grid-cols-4" : "grid-cols-5"}`}
        each="min-h-16 text-base"
      />
    </div>
  );
}
