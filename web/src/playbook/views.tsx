import type { Schemas } from "../api/client";
import { convert, digits, findMeasure, type System } from "../format";
import { StrikePath, useStrikeName, useStrikeNames } from "../ui/StrikePicker";
import { useUnits } from "../ui/settings";
import type { Content, Entry, Of } from "./entries";
import { Moved } from "./Moved";
import { StanceDrawing } from "./StanceDrawing";

interface Props {
  entry: Entry;
  registry: Schemas["Registry"];
  book: Entry[];
}

/** What an entry says, as a coach reads it. */
export function EntryView({ entry, registry, book }: Props) {
  const content: Content = entry.content;
  switch (content.kind) {
    case "strike":
      return <CardView code={entry.key} card={content} registry={registry} />;
    case "drill":
      return <DrillView code={entry.key} drill={content} registry={registry} book={book} />;
    case "sign":
      return <SignView sign={content} registry={registry} book={book} />;
    case "factor":
      return <p className="mt-0.5">{content.levels.join(" · ")}</p>;
    case "remarks":
      return <p className="mt-0.5">{content.words.join(" · ")}</p>;
    case "point":
      return (
        <p className="mt-0.5">
          {content.look_for} <span className="text-soft">{content.mistake && `Mistake: ${lower(content.mistake)}`}</span> <SeenBy measures={content.measures ?? []} registry={registry} none="Your eye alone sees it." />
        </p>
      );
  }
}

function CardView({ code, card, registry }: { code: string; card: Of<"strike">; registry: Schemas["Registry"] }) {
  const known = useStrikeNames().data ?? [];
  const strike = known.find((s) => s.code === code) ?? known.find((s) => s.code === `rear-${code}` || s.code.startsWith(`rear-${code}-`));
  return (
    <div className="mt-1 flex flex-wrap gap-x-8 gap-y-2">
      <div className="max-w-2xl min-w-72 flex-1">
        <ol className="list-decimal pl-5">
          {card.parts.map((p) => (
            <li key={p}>{p}</li>
          ))}
        </ol>
        {card.weight && (
          <p className="mt-1">
            <b>Weight</b> {card.weight}
          </p>
        )}
        {card.ends && (
          <p>
            <b>Ends</b> {card.ends}
          </p>
        )}
        {!!card.mistakes?.length && (
          <p>
            <b>Mistakes</b> {card.mistakes.map(lower).join("; ")}
          </p>
        )}
        {card.care && <p className="text-buoy-ink">{card.care}</p>}
        <SeenBy measures={card.measures ?? []} registry={registry} none="No unit sees it: your eye does." />
      </div>
      <figure className="text-center text-2xs text-soft">
        <StanceDrawing card={card} />
        <figcaption>from above</figcaption>
      </figure>
      {strike?.path && (
        <figure className="flex flex-col items-center justify-center gap-2 text-center text-2xs text-soft">
          <StrikePath path={strike.path} family={strike.family} className="size-20" told={`Its path from the side: ${strike.path === "screwed" ? "straight, turning" : strike.path}`} />
          <figcaption>from the side</figcaption>
        </figure>
      )}
    </div>
  );
}

function SeenBy({ measures, registry, none }: { measures: string[]; registry: Schemas["Registry"]; none: string }) {
  const labels = measures.map((m) => findMeasure(registry, m)?.label.toLowerCase() ?? m);
  return <span className="text-soft">{labels.length ? `Units see it by ${labels.join(", ")}.` : none}</span>;
}

function DrillView({ code, drill, registry, book }: { code: string; drill: Of<"drill">; registry: Schemas["Registry"]; book: Entry[] }) {
  const asking = book.flatMap((e) => (e.content.kind === "sign" && e.content.drill === code && !e.off ? [e.content] : []));
  return (
    <div className="mt-0.5">
      <ol className="list-decimal pl-5">
        {drill.steps.map((s) => (
          <li key={s}>{s}</li>
        ))}
      </ol>
      <p className="mt-1">
        <b>{drill.dose}</b> {drill.go_on && `Go on when: ${lower(drill.go_on)}`} {drill.kit && `It takes ${drill.kit}.`} {!drill.children && "Not for children."}
      </p>
      {drill.care && <p className="text-buoy-ink">{drill.care}</p>}
      {asking.length > 0 && <p className="text-soft">Asked for where: {asking.map((s) => lower(s.name).replace(/\.$/, "")).join("; ")}.</p>}
      <Moved drill={code} registry={registry} />
    </div>
  );
}

function SignView({ sign, registry, book }: { sign: Of<"sign">; registry: Schemas["Registry"]; book: Entry[] }) {
  const [units] = useUnits();
  const nameOf = useStrikeName();
  const drill = book.find((e) => e.kind === "drill" && e.key === sign.drill)?.content.name ?? sign.drill;
  const where = sign.strikes?.length ? sign.strikes.map(nameOf).join("; ") : "every strike";
  return (
    <p className="mt-0.5">
      <b>{drill}.</b> <span className="text-soft">In {where}: {edgeText(sign, registry, units)}</span>
    </p>
  );
}

function edgeText(sign: Of<"sign">, registry: Schemas["Registry"], units: System): string {
  const measure = sign.measure ? findMeasure(registry, sign.measure) : undefined;
  const said = sign.remarks?.length ? `you said ${sign.remarks.map((r) => `“${r}”`).join(" or ")}` : "";
  if (sign.measure === "chain_order") return ["shoulders turn before the hips", said].filter(Boolean).join(", or ") + ".";
  if (!measure) return `${said}.`;
  const way = sign.low ? "under" : "over";
  if (sign.edge === null || sign.edge === undefined) return [`${lower(measure.label)} ${way} the school’s own edge`, said].filter(Boolean).join(", or ") + ".";
  const [value, unit, decimals] = convert(sign.edge, measure.unit, measure.decimals, units);
  return [`${lower(measure.label)} ${way} ${digits(value, decimals)} ${unit}`.trim(), said].filter(Boolean).join(", or ") + ".";
}

export function lower(words: string): string {
  return words.charAt(0).toLowerCase() + words.slice(1);
}
