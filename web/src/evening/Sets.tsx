import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useDropSet, usePlanSet } from "../api/evening";
import { convert, digits, limbName } from "../format";
import { Form, Labelled } from "../ui/Form";
import { Problem } from "../ui/state";
import { useUnits } from "../ui/settings";
import { say } from "../ui/toast";
import { linesOf, type Line } from "./lines";
import { StrikePicker, usePlannedName } from "../ui/StrikePicker";

type Page = Schemas["EveningPage"];

/** What was to be thrown and what was: a set that was planned stands beside the one that it became. */
export function Sets({ evening, registry }: { evening: Page; registry: Schemas["Registry"] }) {
  const [units] = useUnits();
  const [planning, setPlanning] = useState(false);
  const measure = registry.measures.find((m) => m.name === evening.measure)!;
  const unit = convert(1, measure.unit, measure.decimals, units)[1];
  const lines = linesOf(evening);
  return (
    <section aria-label="Sets">
      <div className="flex items-baseline justify-between">
        <h2 className="wide-title text-lg">Sets</h2>
        <button className="action no-print min-h-11" aria-expanded={planning} onClick={() => setPlanning(!planning)}>
          Plan a set
        </button>
      </div>
      {planning && <Plan evening={evening} registry={registry} close={() => setPlanning(false)} />}
      {lines.length === 0 && evening.loose === 0 ? (
        <p className="mt-2 text-soft">Nothing planned and nothing thrown yet.</p>
      ) : (
        <table className="mt-2 w-full text-left">
          <thead className="text-soft">
            <tr className="border-b border-line [&>th]:py-1.5 [&>th]:pr-3 [&>th]:font-semibold">
              <th>Strike</th>
              <th>Under</th>
              <th className="text-right max-sm:hidden">Planned</th>
              <th className="text-right">Thrown</th>
              <th className="text-right">
                {measure.label} <span className="font-normal">{unit}</span>
              </th>
              <th>
                <span className="sr-only">Open or take off</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {lines.map((line) => (
              <Row key={line.key} line={line} evening={evening} mean={line.mean === null ? null : convert(line.mean, measure.unit, measure.decimals, units)} />
            ))}
            {evening.loose > 0 && (
              <tr className="border-b border-line [&>td]:py-2 [&>td]:pr-3">
                <td className="text-soft" colSpan={2}>
                  In no set
                </td>
                <td className="max-sm:hidden" />
                <td className="numeric text-right">{evening.loose}</td>
                <td colSpan={2} />
              </tr>
            )}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Row({ line, evening, mean }: { line: Line; evening: Page; mean: [number, string, number] | null }) {
  const plannedName = usePlannedName();
  const drop = useDropSet(evening.id);
  const plan = usePlanSet(evening.id);
  const { planned } = line;
  const takeOff = () =>
    planned &&
    drop.mutate(planned.id, {
      onSuccess: () => {
        const { code, limb, level, levels, school_id, strikes, gear } = planned;
        say({ text: `${plannedName(code)} is no longer planned.`, back: () => plan.mutate({ code, limb, level, levels, school_id, strikes, gear }, { onSuccess: () => say(null) }) });
      },
    });
  return (
    <tr className="border-b border-line [&>td]:py-2 [&>td]:pr-3">
      <td>
        <span className="font-semibold">{plannedName(line.code)}</span>
        <span className="block text-2xs text-soft">{[line.limb && limbName(line.limb), line.level, line.landed, line.byCoach && "as you said"].filter(Boolean).join(", ")}</span>
      </td>
      <td>{line.under || <span className="text-soft">nothing said</span>}</td>
      <td className="numeric text-right max-sm:hidden">{planned ? (planned.strikes ?? "some") : <span className="text-soft">–</span>}</td>
      <td className="numeric text-right">
        {line.recording === null ? <span className="text-soft">not yet</span> : line.strikes}
        {line.excluded > 0 && <span className="block text-2xs text-soft">{line.excluded} thrown out</span>}
      </td>
      <td className="numeric text-right">{mean ? digits(mean[0], mean[2]) : ""}</td>
      <td className="text-right whitespace-nowrap">
        {line.recording !== null ? (
          <Link className="plain inline-block py-2" to={`/students/${evening.student_id}/read?recording=${line.recording}`}>
            Read
          </Link>
        ) : (
          planned &&
          planned.trial === null && (
            <button className="plain no-print min-h-11" disabled={drop.isPending} onClick={takeOff}>
              Take off
            </button>
          )
        )}
        <Problem error={drop.error ?? plan.error} />
      </td>
    </tr>
  );
}

function Plan({ evening, registry, close }: { evening: Page; registry: Schemas["Registry"]; close: () => void }) {
  const [code, setCode] = useState("");
  const [limb, setLimb] = useState("");
  const [level, setLevel] = useState("");
  const [strikes, setStrikes] = useState("10");
  const plan = usePlanSet(evening.id);
  const text = { code, limb, level, levels: {}, school_id: null, strikes: strikes ? Number(strikes) : null, gear: "" };
  return (
    <Form submit="Plan it" busy={plan.isPending} error={plan.error} save={() => plan.mutate(text, { onSuccess: close })} close={close} className="mt-2 border-y border-line py-3">
      <div className="grid grid-cols-2 items-end gap-3 md:grid-cols-4">
        <Labelled name="Strike">
          <StrikePicker value={code} onChange={setCode} autoFocus />
        </Labelled>
        <Labelled name="Limb">
          <select className="field w-full" value={limb} onChange={(e) => setLimb(e.target.value)}>
            <option value="">as measured</option>
            {registry.limbs.map((l) => (
              <option key={l} value={l}>
                {limbName(l)}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled name="Height">
          <select className="field w-full" value={level} onChange={(e) => setLevel(e.target.value)}>
            <option value="">any</option>
            {["head", "body", "low"].map((l) => (
              <option key={l}>{l}</option>
            ))}
          </select>
        </Labelled>
        <Labelled name="Strikes">
          <input className="field w-full" type="number" min={1} max={1000} value={strikes} onChange={(e) => setStrikes(e.target.value)} />
        </Labelled>
      </div>
    </Form>
  );
}
