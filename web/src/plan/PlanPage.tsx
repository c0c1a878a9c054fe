import { useState, type DragEvent } from "react";
import { Link, useParams } from "react-router";
import { useStudent, useZone } from "../api/queries";
import { digits, shiftedDay, shortDay, today } from "../format";
import { useAddress } from "../ui/address";
import { Failed, Loading } from "../ui/state";
import { Volume } from "../weeks/Volume";
import { DAYS, headline, useCalendar, useChanging, useDropPart, usePutPart, usePlannedWeek, useRepeat, useUnseen, type Part, type Plan } from "./week";
import { Limbs } from "./Limbs";
import { Wishes } from "./Wishes";

const read = (params: URLSearchParams) => ({ week: params.get("week") });

/** A student's week: proposed from wishes and free evenings, changed by hand, beside what was thrown. */
export function PlanPage() {
  const studentId = Number(useParams().studentId);
  const [{ week: monday }, change] = useAddress(read);
  const student = useStudent(studentId);
  const week = usePlannedWeek(studentId, monday);
  const failed = student.error ?? week.error;
  if (failed) return <Failed error={failed} retry={() => void week.refetch()} />;
  if (!student.data || !week.data) return <Loading what="the week" />;
  const plan = week.data;
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <h1 className="wide-title text-2xl sm:text-3xl">{headline(plan)}</h1>
      <div className="mt-1 flex flex-wrap items-center gap-x-4">
        <button className="plain no-print min-h-11" onClick={() => change({ week: shiftedDay(plan.monday, -7) })}>
          ← The week before
        </button>
        <span>
          {student.data.name}, week of {shortDay(plan.monday)}
        </span>
        <button className="plain no-print min-h-11" onClick={() => change({ week: shiftedDay(plan.monday, 7) })}>
          The next one →
        </button>
        <Link className="plain no-print inline-flex min-h-11 items-center" to={`/class/plan?week=${plan.monday}`}>
          The class
        </Link>
        <Ways plan={plan} studentId={studentId} />
      </div>
      {student.data.stopped && <p className="mt-2 border-l-4 border-buoy pl-3">{student.data.stopped}</p>}
      {plan.sore.map((text) => (
        <p key={text} className="mt-2 border-l-4 border-buoy pl-3">
          Not over: {text}. What it stops rests until it is cleared in the{" "}
          <Link className="plain" to={`/log?student=${studentId}`}>
            log
          </Link>
          .
        </p>
      ))}
      {!plan.proven && <p className="mt-2 text-soft">The best week that was found in the time; a better one may exist. With fewer wishes it is found for certain.</p>}
      <Board plan={plan} studentId={studentId} />
      <div className="mt-6 grid gap-10 lg:grid-cols-2">
        <section aria-label="Load">
          <Volume weeks={plan.load} marks={[]} />
          <p className="mt-1 text-soft">
            {plan.usual > 0 && plan.most !== null
              ? `Usual is ${digits(plan.usual, 0)} a week; up to ${digits(plan.most, 0)} is no sudden jump. That is a rule of thumb: science doubts that any such share foretells an injury.`
              : "No week was measured before: begin low."}
          </p>
          <Limbs limbs={plan.limbs} />
          <Unseen key={plan.monday} plan={plan} studentId={studentId} />
        </section>
        <Wishes key={JSON.stringify([plan.monday, plan.wishes, plan.free, plan.easy])} plan={plan} studentId={studentId} child={student.data.counts_as_child} stopped={!!student.data.stopped} />
      </div>
    </div>
  );
}

/** Out of the week: repeated, to a calendar and from it, printed. */
function Ways({ plan, studentId }: { plan: Plan; studentId: number }) {
  const repeat = useRepeat(studentId);
  const calendar = useCalendar(studentId, plan.monday);
  const changing = useChanging(studentId);
  const some = plan.parts.length > 0;
  return (
    <span className="no-print ml-auto flex flex-wrap items-center gap-x-4">
      {some && (
        <select aria-label="Repeat this week" className="field min-h-11" value="" disabled={changing} onChange={(e) => repeat.mutate({ monday: plan.monday, weeks: Number(e.target.value) })}>
          <option value="">{repeat.isPending ? "Planning …" : "Repeat it for"}</option>
          {[1, 2, 3, 4, 8].map((n) => (
            <option key={n} value={n}>
              {n === 1 ? "one week more" : `${n} weeks more`}
            </option>
          ))}
        </select>
      )}
      {some && (
        <a className="plain inline-flex min-h-11 items-center" href={`/api/students/${studentId}/plan.ics?monday=${plan.monday}`} download>
          To a calendar
        </a>
      )}
      <label className="plain inline-flex min-h-11 cursor-pointer items-center focus-within:outline-2">
        From a calendar
        <input
          type="file"
          accept=".ics,text/calendar"
          className="sr-only"
          disabled={changing}
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) calendar.mutate(file);
          }}
        />
      </label>
      <button className="plain min-h-11" onClick={() => window.print()}>
        Print
      </button>
    </span>
  );
}

/** What units did not see is asked, not ignored. */
function Unseen({ plan, studentId }: { plan: Plan; studentId: number }) {
  const tell = useUnseen(studentId);
  const [hands, setHands] = useState(plan.unseen_hands ?? "");
  const [kicks, setKicks] = useState(plan.unseen_kicks ?? "");
  const count = (value: number | string) => (value === "" ? null : Number(value));
  const asked = plan.unseen_hands === null && plan.unseen_kicks === null;
  return (
    <form
      className="no-print mt-3 flex flex-wrap items-end gap-3 border-t border-line pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        tell.mutate({ monday: plan.monday, hands: count(hands), kicks: count(kicks), version: plan.version });
      }}
    >
      <span className="w-full">{asked ? "What was thrown this week without units? It counts into the load." : "Thrown without units this week, as you said:"}</span>
      <label>
        <span className="mb-1 block font-semibold">With hands</span>
        <input className="field min-h-11 w-24" type="number" min={0} max={5000} value={hands} onChange={(e) => setHands(e.target.value)} />
      </label>
      <label>
        <span className="mb-1 block font-semibold">Kicks</span>
        <input className="field min-h-11 w-24" type="number" min={0} max={5000} value={kicks} onChange={(e) => setKicks(e.target.value)} />
      </label>
      <button className="action min-h-11" disabled={tell.isPending}>
        Count them
      </button>
    </form>
  );
}

/** Seven days; a part is dragged to another, with Ctrl or Alt once more on it, or sent there by its buttons. */
function Board({ plan, studentId }: { plan: Plan; studentId: number }) {
  const put = usePutPart(studentId);
  const drop = useDropPart(studentId);
  const zone = useZone();
  const [over, setOver] = useState<number | null>(null);
  const dropped = (e: DragEvent, day: number) => {
    e.preventDefault();
    setOver(null);
    const id = Number(e.dataTransfer.getData("text/plain"));
    const part = plan.parts.find((p) => p.id === id);
    const copy = e.ctrlKey || e.altKey;
    if (part && (copy || part.day !== day)) put.mutate({ id, day, version: plan.version, copy });
  };
  return (
    <ol aria-label="The week" className="mt-3 grid border-t-2 border-ink md:grid-cols-7">
      {plan.days.map(({ on, thrown }, day) => {
        const parts = plan.parts.filter((p) => p.day === day);
        const free = plan.free.find((f) => f.day === day);
        const minutes = parts.reduce((sum, p) => sum + p.minutes, 0);
        return (
          <li
            key={on}
            aria-label={`${DAYS[day]!}, ${shortDay(on)}`}
            className={`min-w-0 border-b border-line px-2 py-2 md:min-h-72 md:border-r md:border-b-0 ${free ? "bg-shade" : ""} ${over === day ? "outline-3 -outline-offset-3 outline-oar" : ""}`}
            onDragOver={(e) => {
              e.preventDefault();
              setOver(day);
            }}
            onDragLeave={() => setOver(null)}
            onDrop={(e) => dropped(e, day)}
          >
            <h2 className={`font-semibold ${on === today(zone) ? "text-oar" : ""}`}>
              {DAYS[day]!.slice(0, 3)} {shortDay(on)}
            </h2>
            <p className="numeric text-2xs text-soft">
              {parts.length > 0 ? `${digits(minutes, 0)} min${free ? ` of ${digits(free.minutes, 0)}` : ", not a free evening"}` : free ? "free" : "rest"}
              {thrown > 0 && ` · ${thrown} thrown`}
            </p>
            <ul>
              {parts.map((p) => (
                <Card key={p.id} part={p} busy={put.isPending || drop.isPending} to={(to, copy) => put.mutate({ id: p.id, day: to, version: plan.version, copy })} off={() => drop.mutate({ id: p.id, version: plan.version })} />
              ))}
            </ul>
          </li>
        );
      })}
    </ol>
  );
}

const ABOUT: Record<string, string> = { ramp: "light, half, three-quarter", trial: "fresh, before all else", drill: "one point, slowly", bursts: "all out, long rests", rounds: "with calls, or free" };

function Card({ part, busy, to, off }: { part: Part; busy: boolean; to: (day: number, copy?: boolean) => void; off: () => void }) {
  const whole = Math.max(part.left + part.right, 1);
  return (
    <li className="mt-2 cursor-grab border-t border-line pt-1" draggable onDragStart={(e) => e.dataTransfer.setData("text/plain", String(part.id))}>
      <p className={`leading-tight font-semibold ${part.rests ? "text-soft line-through" : ""}`}>{part.name}</p>
      {(part.done !== null || part.thrown > 0) && <p className={`text-2xs font-semibold ${part.done ? "text-oar" : "text-soft"}`}>{part.done ? "✓ done" : part.thrown > 0 ? `${part.thrown} of ${part.strikes} thrown` : "not done"}</p>}
      {part.rests && <p className="text-2xs font-semibold text-buoy-ink">Rests until it is cleared</p>}
      <p className="text-2xs text-soft">{part.left + part.right > 0 ? `${part.strikes}: left ${part.left}, right ${part.right}` : part.kind === "trial" ? `${part.strikes} strikes, ${ABOUT.trial!}` : ABOUT[part.kind]}</p>
      {part.left + part.right > 0 && (
        <svg viewBox="0 0 100 8" className="mt-1 h-2 w-full max-w-40" preserveAspectRatio="none" aria-hidden="true">
          <rect width={(100 * part.left) / whole} height={8} fill="var(--oar)" />
          <rect x={(100 * part.left) / whole + 0.8} y={0.8} width={Math.max((100 * part.right) / whole - 1.6, 0)} height={6.4} fill="none" stroke="var(--buoy)" strokeWidth={1.6} />
        </svg>
      )}
      <span className="no-print flex">
        <button className="plain size-9" aria-label={`${part.name}: a day earlier`} disabled={busy || part.day === 0} onClick={() => to(part.day - 1)}>
          ←
        </button>
        <button className="plain size-9" aria-label={`${part.name}: a day later`} disabled={busy || part.day === 6} onClick={() => to(part.day + 1)}>
          →
        </button>
        <button className="plain size-9" aria-label={`${part.name}: once more, a day later`} disabled={busy || part.day === 6} onClick={() => to(part.day + 1, true)}>
          +→
        </button>
        <button className="plain size-9" aria-label={`Take ${part.name} off`} disabled={busy} onClick={off}>
          ✕
        </button>
      </span>
    </li>
  );
}
