import { useEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { useStrikePage } from "../api/queries";
import { convert, digits, said, show, type System, wordsFor } from "../format";
import { MeasureName } from "../ui/MeasureName";
import { Problem } from "../ui/state";
import { useChosen } from "./chosen";
import { EyePoints } from "../evening/EyePoints";
import { useReading } from "./reading";

/** Beside the lanes: the figures that were chosen, from the floor to the bag, the school's checks, and what the coach saw. */
export function StrikeAside() {
  const { recording, strikes, shown: chosen, units } = useReading();
  const { names } = useChosen();
  return (
    <div className="min-h-0 space-y-2.5 overflow-auto pr-1" tabIndex={0} role="region" aria-label="Judgement of the strike">
      <dl className="grid grid-cols-2 gap-x-4 gap-y-0.5">
        {names.map((measure) => {
          const shown = show(measure, strikes.values[measure.name]?.[chosen], strikes.sds[measure.name]?.[chosen], units);
          return (
            <div key={measure.name}>
              <dt className="truncate text-2xs text-soft">
                <MeasureName measure={measure} />
              </dt>
              <dd className="whitespace-nowrap">
                {shown ? (
                  <>
                    <span className="figure text-lg">{shown.value}</span> {shown.unit} <span className="text-2xs text-soft">{shown.doubt}</span>
                  </>
                ) : (
                  <span className="text-soft">{measure.name.includes("_estimated") ? "no bag evenings yet" : "not measured"}</span>
                )}
              </dd>
            </div>
          );
        })}
      </dl>
      <Checks />
      <Remarks />
      {recording.session_id !== null && <EyePoints eveningId={recording.session_id} only="eye" />}
      <Link className="plain no-print inline-block py-2" to={`/evenings/${recording.session_id}`}>
        What to drill after this evening
      </Link>
    </div>
  );
}

const MARK: Record<string, { shape: string; color: string; word: string }> = {
  met: { shape: "●", color: "text-oar", word: "met" },
  missed: { shape: "◇", color: "text-buoy-ink", word: "missed" },
  open: { shape: "◐", color: "text-soft", word: "too close to tell" },
  absent: { shape: "–", color: "text-soft", word: "not measured" },
};

function Checks() {
  const { strikes, shown: chosen, registry, view, units } = useReading();
  const page = useStrikePage(strikes.id[chosen], strikes.set_id[chosen], view.under);
  if (page.error) return <Problem error={page.error} />;
  const told = page.data?.judgement;
  if (!told) return <p className="text-soft">Judging …</p>;
  if (!told.school)
    return <p className="border-t border-line pt-2 text-soft">Thrown under no school. Choose strikes on the strip and press l to say which.</p>;
  return (
    <section aria-label="Checks" className={page.isPlaceholderData ? "opacity-60" : ""}>
      <h2 className="border-b border-line pb-1 font-semibold">Against the {told.school} school</h2>
      <ul>
        {told.checks
          .filter((c) => c.verdict !== "absent")
          .map((c) => (
            <li key={c.name} className="flex items-baseline gap-1.5 border-b border-line py-0.5">
              <span className={`w-3.5 shrink-0 ${MARK[c.verdict]!.color}`} aria-hidden="true">
                {MARK[c.verdict]!.shape}
              </span>
              <span className={c.verdict === "missed" ? "font-semibold" : ""}>{c.name}</span>
              <span className="sr-only">, {MARK[c.verdict]!.word}</span>
              <span className="numeric ml-auto text-right text-2xs text-soft">{checkWords(c, registry, units)}</span>
            </li>
          ))}
      </ul>
      {told.objections.map((o) => (
        <p key={o.school} className="mt-2 text-2xs text-soft">
          A {o.school} coach would object: {said(o.words.join("; "), units)}.
        </p>
      ))}
    </section>
  );
}

export function checkWords(c: Schemas["JudgedOut"], registry: Schemas["Registry"], units: System): string {
  if (c.order) return c.order.replaceAll(">", ", ").replaceAll("=", " with ");
  const m = registry.measures.find((one) => one.name === c.measure);
  if (!m || c.value === null) return "not measured";
  const q = (v: number) => {
    const [value, , decimals] = convert(v, m.unit, m.decimals, units);
    return digits(value, decimals);
  };
  const [, unit] = convert(1, m.unit, m.decimals, units);
  const wants = c.low !== null && c.high !== null ? `${q(c.low)} to ${q(c.high)}` : c.low !== null ? `over ${q(c.low)}` : `under ${q(c.high!)}`;
  return `${q(c.value)}${unit && ` ${unit}`}, wants ${wants}`;
}

function Remarks() {
  const { strikes, shown: chosen, registry, editing } = useReading();
  const id = strikes.id[chosen]!;
  const given = strikes.remarks[chosen] ?? [];
  return (
    <section aria-label="What you saw">
      <h2 className="border-b border-line pb-1 font-semibold">What you saw</h2>
      <div className="mt-2 flex flex-wrap gap-1.5">
        {wordsFor(registry, strikes.limb[chosen] ?? "").map((what, k) => (
          <button
            key={what}
            aria-pressed={given.includes(what)}
            className={`min-h-9 rounded-sm border border-ink px-2 text-2xs font-semibold ${given.includes(what) ? "bg-ink text-ground" : "hover:bg-shade"}`}
            onClick={() => editing.remark(chosen, what)}
          >
            {k < 9 && <span className="font-normal opacity-70">{k + 1}</span>} {what}
          </button>
        ))}
      </div>
      <Note key={id} text={strikes.notes[chosen] ?? ""} version={strikes.version[chosen]!} save={(text, version) => editing.note(id, text, version)} />
    </section>
  );
}

/** What is being written stays, whatever comes in meanwhile; it is sent with the version that it was begun on. */
function Note({ text, version, save }: { text: string; version: number; save: (text: string, version: number) => void }) {
  const [words, setWords] = useState(text);
  const begun = useRef({ text, version });
  useEffect(() => {
    setWords((w) => (w === begun.current.text ? text : w));
    begun.current = { text, version };
  }, [text, version]);
  return (
    <textarea
      aria-label="Note on this strike"
      placeholder="A note on this strike"
      rows={2}
      maxLength={2000}
      className="field mt-2 w-full resize-y"
      value={words}
      onChange={(e) => setWords(e.target.value)}
      onBlur={() => words.trim() !== text && save(words, begun.current.version)}
    />
  );
}
