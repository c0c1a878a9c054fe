import type { Schemas } from "../api/client";
import { clock, landed, limbName } from "../format";
import { useCursorAt } from "./cursor";
import { FROM_MS, STEP_MS, TO_MS } from "./limits";
import { useReading } from "./reading";
import { usePlannedName, useStrikeName } from "../ui/StrikePicker";

function setOf(strikes: Schemas["Strikes"], i: number): string {
  const set = strikes.sets.find((one) => one.id === strikes.set_id[i]);
  return set ? [set.school, ...Object.values(set.levels)].filter(Boolean).map((w) => `, ${w}`).join("") : "";
}

/** Which strike it is, when and under what it was thrown, and whether it counts. */
export function Heading({ ask }: { ask: () => void }) {
  const plannedName = usePlannedName();
  const nameOf = useStrikeName();
  const { recording, strikes, shown: chosen, zone, editing } = useReading();
  const out = strikes.excluded[chosen];
  return (
    <div className="flex items-start justify-between gap-3">
      <div>
        <h1 className="wide-title text-lg leading-tight">
          {plannedName(strikes.planned[chosen]!)}
          {strikes.limb[chosen] === "unknown" ? ", limb not known" : `, ${limbName(strikes.limb[chosen]!)}`}
          {landed(strikes.kind[chosen]!) && `, ${landed(strikes.kind[chosen]!)}`}
        </h1>
        <p className="numeric text-soft">
          strike {strikes.number[chosen]} of {strikes.number.length}
          {strikes.level[chosen] && `, ${strikes.level[chosen]}`}
          {setOf(strikes, chosen)}, {clock(recording.acquired_at, strikes.contact_s[chosen]!, zone)}
        </p>
        {strikes.guess[chosen] && strikes.set_id[chosen] === null && (
          <p>
            Looks like: <b>{nameOf(strikes.guess[chosen]!)}</b> ({strikes.guess_pct[chosen]} %)
            <button className="plain no-print ml-2 min-h-9" onClick={() => editing.name([strikes.id[chosen]!])}>
              Call it so
            </button>
          </p>
        )}
        {out && <p className="font-semibold text-buoy-ink">Thrown out: {out}</p>}
      </div>
      <button className="action no-print shrink-0" onClick={out ? () => editing.exclude(chosen, null) : ask}>
        {out ? "Take back" : "Throw out"}
      </button>
    </div>
  );
}

/** What is laid under the strike: nothing, its set's mean, or another strike. */
export function Under() {
  const { strikes, shown: chosen, view, change, cursor } = useReading();
  const at = useCursorAt(cursor);
  const other = strikes.id.indexOf(Number(view.under));
  const before = chosen > 0 ? String(strikes.id[chosen - 1]) : "";
  return (
    <div className="no-print flex flex-wrap items-center gap-x-3 gap-y-1">
      <label className="flex basis-full items-center gap-2">
        <span className="whitespace-nowrap text-soft">Draw under it</span>
        <select className="field min-w-0 flex-1" value={view.under} onChange={(e) => change({ under: e.target.value })}>
          <option value="">nothing</option>
          <option value="set">the mean of its set</option>
          {before && before !== view.under && <option value={before}>the strike before</option>}
          {other >= 0 && <option value={view.under}>strike {strikes.number[other]}</option>}
        </select>
      </label>
      <label className="flex items-center gap-1">
        <span className="whitespace-nowrap text-soft">Look at</span>
        <input
          className="field w-16 px-1.5"
          type="number"
          step={STEP_MS}
          min={FROM_MS}
          max={TO_MS}
          aria-label="Cursor, milliseconds from contact"
          value={at ?? ""}
          onChange={(e) => cursor.set(e.target.value === "" ? undefined : Number(e.target.value))}
        />
        <span className="whitespace-nowrap text-soft">ms from contact</span>
      </label>
    </div>
  );
}
