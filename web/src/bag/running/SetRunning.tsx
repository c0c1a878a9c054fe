import type { Schemas } from "../../api/client";
import { limbName, minutes, show } from "../../format";
import { useUnits } from "../../ui/settings";
import type { Figure } from "../heard/figure";
import { BigFigure } from "./BigFigure";
import { Counts } from "./Counts";
import { Beside } from "./Beside";
import { useRound } from "../taps/round";
import type { Saying } from "../taps/saying";
import { sides } from "../heard/marks";
import { useUsual, type Mark, type Struck, type Take } from "../heard/take";
import { VolumeLeft, volumeOf } from "../between/Volumes";
import { levelsOf } from "../heard/words";
import { usePlannedName } from "../../ui/StrikePicker";

interface Props {
  take: Take;
  mark: Mark;
  strikes: Struck[];
  figure: Figure;
  registry: Schemas["Registry"];
  saying: Saying;
}

/** While a round with calls runs: what was called, and how long it goes on; figures are for after. */
export function RoundRunning({ take, strikes, ended }: { take: Take; strikes: Struck[]; ended: () => void }) {
  const round = useRound(take, ended);
  if (!round) return <p className="p-4 text-2xl">The round begins …</p>;
  const waits = round.begins_in_s > 0;
  const text = waits ? String(Math.ceil(round.begins_in_s)) : round.over ? "time" : round.rush ? "go" : round.words;
  return (
    <div className="grid h-full min-h-0 grid-rows-[1fr_auto]">
      <div className="min-h-24" style={{ containerType: "size" }}>
        <output aria-live="off" data-call={text} className={`figure flex h-full items-center leading-none ${waits ? "text-soft" : ""}`} style={{ fontSize: `min(80cqh, ${100 / (Math.max(text.length, 3) * 0.66)}cqw)` }}>
          {text}
        </output>
      </div>
      <div className="flex flex-wrap items-baseline gap-x-8 pb-2 text-2xl">
        <span role="timer">
          <span className="figure text-5xl">{minutes(Math.max(0, Math.min(round.left_s, round.total_s)))}</span> <span className="text-soft">{round.rush ? "as many as you can" : "left"}</span>
        </span>
        <span>
          <b>{strikes.length}</b> <span className="text-soft">landed</span>
        </span>
      </div>
    </div>
  );
}

/** While a set runs: the last strike as one figure, the one before, the usual, and how many. */
export function SetRunning({ take, mark, strikes, figure, registry, saying }: Props) {
  const plannedName = usePlannedName();
  const [units] = useUnits();
  const usual = useUsual(take.id, mark.code).data ?? [];
  const last = strikes.at(-1);
  const before = strikes.at(-2);
  const m = figure.measure;
  const value = (s: Struck | undefined) => (s ? s.measures[m.name] : undefined);
  const then = value(before);
  const shownThen = then ? show(m, then[0], then[1], units) : null;
  const other = last && mark.limb && last.limb !== "unknown" && last.limb !== mark.limb;
  const volume = volumeOf(take.volumes, mark.code);
  const odd = last?.flags.includes("implausible") && !saying.kept;
  return (
    <div className="grid h-full min-h-0 grid-rows-[auto_1fr] gap-x-7 md:grid-cols-[1fr_minmax(15rem,22rem)] portrait:md:grid-cols-1">
      <p className="pt-3 text-xl sm:text-3xl md:col-span-2 portrait:md:col-span-1">
        <b>{plannedName(mark.code)}</b>
        <span className="text-soft">
          {mark.level && `, ${mark.level}`}
          {levelsOf(mark.levels) && ` · ${levelsOf(mark.levels)}`}
        </span>
        {mark.early > 0 && <span className="ml-3 text-base text-buoy-ink">started {mark.early} early</span>}
      </p>
      <div className="flex min-h-0 flex-col">
        <BigFigure figure={figure} strike={last} usual={usual.find((u) => u.measure === m.name)} />
        <p className="min-h-8 text-lg text-soft sm:text-2xl">
          {figure.choice !== "none" && figure.choice !== "word" && shownThen && (
            <>
              the one before <span className="numeric text-ink">{shownThen.value}</span>
            </>
          )}
          {other && (
            <b className="ml-4 text-buoy-ink">
              {limbName(last.limb)} landed, {limbName(mark.limb)} was planned
            </b>
          )}
        </p>
        {odd && (
          <div role="alert" className="mt-1 flex items-center gap-3 border-l-4 border-buoy pl-3 text-lg">
            <span>Beyond what a person can do. Was it a strike?</span>
            <button className="action min-h-16 px-5" onClick={saying.keep}>
              Yes, keep it
            </button>
            <button className="action min-h-16 px-5" onClick={saying.notAStrike}>
              No
            </button>
          </div>
        )}
      </div>
      <div className="flex min-h-0 flex-col gap-4 overflow-hidden border-line md:border-l md:pl-6 portrait:md:border-l-0 portrait:md:pl-0">
        {figure.choice !== "none" && <Beside registry={registry} figure={figure} strikes={strikes} usual={usual} child={take.child} levels={mark.levels} />}
        <Counts strikes={strikes} wanted={mark.wanted} />
        {volume && <VolumeLeft volume={volume} more={sides(strikes, mark.limb)} />}
      </div>
    </div>
  );
}
