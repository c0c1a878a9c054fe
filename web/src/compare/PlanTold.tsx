import type { Schemas } from "../api/client";
import { digits, shortDay } from "../format";
import { Problem } from "../ui/state";

interface Props {
  plan: Schemas["PlanOut"] | undefined;
  text: Schemas["TrialIn"];
  error: Error | null;
  pending: boolean;
  take: (part: Partial<Schemas["TrialIn"]>) => void;
}

/** What a plan asks of an evening, and how small a change it should show of each student. */
export function PlanTold({ plan, text, error, pending, take }: Props) {
  if (error) return <Problem error={error} />;
  if (!plan) return <p className="text-soft">{pending ? "Working out what it would show …" : "Fill in the left side, and what the plan would show appears here."}</p>;
  return (
    <section aria-label="What the plan would show" className={`space-y-5 ${pending ? "opacity-60" : ""}`} aria-busy={pending}>
      <div>
        <h2 className="wide-title text-lg">An evening takes {digits(plan.minutes, 0)} minutes</h2>
        <p className="text-soft">after the warm-up: {text.levels.length * text.blocks_each!} blocks of {text.strikes} strikes, {text.rest_s} s of rest between.</p>
        <ol className="mt-2 space-y-2">
          {plan.orders.map((order, e) => (
            <li key={e} className="flex flex-wrap items-center gap-1.5">
              <span className="w-24 text-soft">{e === plan.orders.length - 1 && text.evenings! > plan.orders.length ? `Evening ${e + 1} …` : `Evening ${e + 1}`}</span>
              {order.map((level, i) => (
                <Turn key={i} place={text.levels.indexOf(level)} name={level} />
              ))}
            </li>
          ))}
        </ol>
      </div>
      {plan.earlier && (
        <p className="flex flex-wrap items-center gap-3 border-l-4 border-oar pl-3">
          <span>
            {plan.earlier.sets === 1 ? "One set was" : `${plan.earlier.sets} sets were`} thrown under these levels before, from {shortDay(plan.earlier.since)} on.
          </span>
          <button type="button" className="action min-h-11" onClick={() => take({ since: plan.earlier!.since })}>
            Count from {shortDay(plan.earlier.since)}
          </button>
        </p>
      )}
      {plan.proposals.map((p) => (
        <Seen key={p.student_id} proposal={p} evenings={text.evenings!} worth={text.worth_pct} take={take} />
      ))}
      <ul className="space-y-1 border-t border-line pt-3">
        {plan.cautions.map((c) => (
          <li key={c} className="border-l-4 border-line pl-2">
            {c}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Turn({ place, name }: { place: number; name: string }) {
  const color = place === 0 ? "var(--oar)" : place === 1 ? "var(--buoy)" : "var(--ink)";
  return (
    <span className="inline-flex max-w-44 items-center gap-1.5 truncate rounded-sm border px-2 py-1 text-2xs" style={{ borderColor: color }} title={name}>
      <b className="figure" style={{ color }}>
        {"ABCD"[place]}
      </b>
      <span className="truncate">{name}</span>
    </span>
  );
}

/** How small a change so many evenings should show, from this student's own spread. */
function Seen({ proposal: p, evenings, worth, take }: { proposal: Schemas["ProposalOut"]; evenings: number; worth: number | null | undefined; take: Props["take"] }) {
  const planned = p.sights.filter((s) => s.evenings <= evenings).at(-1);
  return (
    <div>
      <h2 className="wide-title text-lg">
        {p.student}: {planned ? `${digits(planned.seen_pct, 0)} % and more can be seen in ${planned.evenings} ${planned.evenings === 1 ? "evening" : "evenings"}` : ""}
      </h2>
      <p className="text-soft">
        {p.learnt_from > 0
          ? `From ${digits(p.learnt_from, 0)} own strikes, which vary by ${digits(p.within_pct, 0)} %; blocks by ${digits(p.block_pct, 0)} % more.`
          : "Nothing thrown yet: from what is usual."}{" "}
        {worth ? (p.evenings_for_worth ? `For ${worth} %: ${p.evenings_for_worth} ${p.evenings_for_worth === 1 ? "evening" : "evenings"}.` : `For ${worth} %, more than ten evenings.`) : ""}
      </p>
      <table className="mt-2 w-full text-right">
        <thead>
          <tr className="text-2xs text-soft">
            <th className="text-left font-normal">Evenings</th>
            {p.sights.map((s) => (
              <th key={s.evenings} className={`px-1 font-normal ${s.evenings === planned?.evenings ? "font-bold text-ink" : ""}`}>
                {s.evenings}
              </th>
            ))}
          </tr>
        </thead>
        <tbody className="numeric">
          <tr className="border-t border-line">
            <th className="text-left font-normal">Seen four times in five, %</th>
            {p.sights.map((s) => (
              <td key={s.evenings} className={`px-1 py-1 ${s.evenings === planned?.evenings ? "font-bold" : ""} ${worth && s.seen_pct <= worth ? "text-oar" : ""}`}>
                {digits(s.seen_pct, 0)}
              </td>
            ))}
          </tr>
          <tr className="border-t border-line text-soft">
            <th className="text-left font-normal">Minutes in all</th>
            {p.sights.map((s) => (
              <td key={s.evenings} className="px-1 py-1">
                {digits(s.minutes, 0)}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      {p.suggested && (
        <p className="mt-2 flex flex-wrap items-center gap-3">
          <span>
            Fewest minutes for {worth} %: {p.suggested.blocks_each} blocks of {p.suggested.strikes} of each level, {p.suggested.evenings} {p.suggested.evenings === 1 ? "evening" : "evenings"}, {digits(p.suggested.minutes, 0)} minutes in all.
          </span>
          <button type="button" className="action" onClick={() => take({ blocks_each: p.suggested!.blocks_each, strikes: p.suggested!.strikes, evenings: p.suggested!.evenings })}>
            Take it
          </button>
        </p>
      )}
      {p.days.length > 0 && (
        <p className="mt-1 text-soft">
          On the days {p.student.split(" ")[0]} comes: {p.days.map((d) => shortDay(String(d))).join(", ")}.
        </p>
      )}
    </div>
  );
}
