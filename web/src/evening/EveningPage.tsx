import { Link, useParams } from "react-router";
import type { Schemas } from "../api/client";
import { useEvening } from "../api/evening";
import { useRegistry, useZone } from "../api/queries";
import { clock, convert, digits, longDay, minutes, placeName } from "../format";
import { Empty, Failed, Loading } from "../ui/state";
import { useUnits } from "../ui/settings";
import { Drills } from "./Drills";
import { EyePoints } from "./EyePoints";
import { Noted } from "./Noted";
import { Sets } from "./Sets";
import { Unsettled } from "./Unsettled";

type Page = Schemas["EveningPage"];

/** One student's evening: who, with what, what was planned and thrown, what was said. */
export function EveningPage() {
  const id = Number(useParams().eveningId);
  const page = useEvening(id);
  const registry = useRegistry();
  const failed = page.error ?? registry.error;
  if (failed) return <Failed error={failed} retry={() => void page.refetch()} />;
  if (!page.data || !registry.data) return <Loading what="the evening" />;
  const evening = page.data;
  const counted = evening.recordings.reduce((sum, r) => sum + r.strikes, 0);
  return (
    <div className="mx-auto max-w-7xl px-6 py-4">
      <header className="flex flex-wrap items-baseline gap-x-6 gap-y-1">
        <h1 className="wide-title text-2xl">
          <Link className="hover:underline" to={`/students/${evening.student_id}`}>
            {evening.student}
          </Link>
          , {weekday(evening.day)}
        </h1>
        <span className="numeric text-soft">
          {counted} strikes in {evening.recordings.length} {evening.recordings.length === 1 ? "recording" : "recordings"}
        </span>
        <nav aria-label="Other evenings" className="no-print ml-auto flex gap-4">
          <Other id={evening.before} name="← The evening before" />
          <Other id={evening.after} name="The next one →" />
        </nav>
      </header>
      <div className="mt-4 grid gap-10 lg:grid-cols-[minmax(0,1fr)_22rem]">
        <div>
          <Unsettled eveningId={evening.id} />
          <Sets evening={evening} registry={registry.data} />
          <Drills evening={evening} registry={registry.data} />
          <Recordings evening={evening} />
        </div>
        <aside className="space-y-6">
          <Who evening={evening} />
          <Noted key={evening.version} evening={evening} />
          <Said evening={evening} />
          <EyePoints eveningId={evening.id} />
          <Worn evening={evening} />
        </aside>
      </div>
    </div>
  );
}

function weekday(day: string): string {
  return `${new Date(day).toLocaleDateString("en-GB", { timeZone: "UTC", weekday: "long" })} ${longDay(day)}`;
}

function Other({ id, name }: { id: number | null; name: string }) {
  return id === null ? (
    <span className="py-2 text-soft">{name}</span>
  ) : (
    <Link className="plain py-2" to={`/evenings/${id}`}>
      {name}
    </Link>
  );
}

function Who({ evening }: { evening: Page }) {
  const [units] = useUnits();
  const mass = evening.mass_kg === null ? null : convert(evening.mass_kg, "kg", 1, units);
  const facts: [string, string][] = [
    ["Stance", evening.stance],
    ["Body mass", mass ? `${digits(mass[0], mass[2])} ${mass[1]}` : "not weighed"],
    ["Bag", evening.bags.join(", ") || "none yet"],
  ];
  return (
    <section aria-label="Who and with what">
      <h2 className="wide-title text-lg">Who and with what</h2>
      <dl className="mt-1 grid grid-cols-[6rem_1fr] gap-y-1">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-soft">{name}</dt>
            <dd className="numeric">{value}</dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

function Recordings({ evening }: { evening: Page }) {
  const zone = useZone();
  return (
    <section className="mt-8">
      <h2 className="wide-title text-lg">Recordings</h2>
      {evening.recordings.length === 0 ? (
        <Empty title="Nothing recorded yet">
          <Link className="plain" to={`/students/${evening.student_id}/bring`}>
            Bring in a recording
          </Link>{" "}
          of this evening: its strikes find the sets that were planned here.
        </Empty>
      ) : (
        <ul className="mt-1 border-t border-line">
          {evening.recordings.map((r) => (
            <li key={r.id} className="border-b border-line">
              <Link className="flex min-h-12 items-center gap-4 hover:bg-shade" to={`/students/${evening.student_id}/read?recording=${r.id}`}>
                <span className="numeric w-16 font-semibold">{clock(r.acquired_at, 0, zone).slice(0, 5)}</span>
                <span className="flex-1">{r.task}</span>
                <span className="numeric w-24 text-right">{r.strikes} strikes</span>
                <span className="numeric w-20 text-right text-soft">{minutes(r.length_s)} long</span>
              </Link>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}

/** Remarks and notes, with the strikes that they are about. */
function Said({ evening }: { evening: Page }) {
  return (
    <section aria-label="What you saw">
      <h2 className="wide-title text-lg">What you saw</h2>
      {evening.remarks.length === 0 && evening.noted.length === 0 && <p className="text-soft">Nothing was remarked on a strike.</p>}
      {evening.remarks.length > 0 && (
        <p className="mt-1">
          {evening.remarks.map((r, i) => (
            <span key={r.what}>
              {i > 0 && ", "}
              {r.what} <span className="numeric text-soft">×{r.strikes}</span>
            </span>
          ))}
        </p>
      )}
      <ul className="mt-1">
        {evening.noted.map((n) => (
          <li key={n.strike_id} className="border-b border-line py-1">
            <Link className="plain" to={`/students/${evening.student_id}/read?recording=${n.recording_id}&id=${n.strike_id}`}>
              Strike {n.number}
            </Link>
            : {n.note}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Worn({ evening }: { evening: Page }) {
  if (evening.worn.length === 0) return null;
  return (
    <section aria-label="Units">
      <h2 className="wide-title text-lg">Units</h2>
      <ul className="mt-1">
        {evening.worn.map((w) => (
          <li key={`${w.unit_id} ${w.placement}`} className="flex justify-between border-b border-line py-1">
            <span>{placeName(w.placement)}</span>
            <span className="text-soft">
              {w.unit === w.placement ? "serial not told" : w.unit}
              {w.battery_pct !== null && <span className="numeric">, {digits(w.battery_pct, 0)} %</span>}
            </span>
          </li>
        ))}
      </ul>
      <Link className="plain no-print mt-1 inline-block py-2" to="/kit">
        Name them in Kit
      </Link>
    </section>
  );
}
