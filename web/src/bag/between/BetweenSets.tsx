import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useEvening } from "../../api/evening";
import { said as inUnits, show } from "../../format";
import { useUnits } from "../../ui/settings";
import { BurstsTold } from "./BurstsTold";
import { CallsTold } from "./CallsTold";
import { ChooseRound } from "./ChooseRound";
import { ChooseSet } from "./ChooseSet";
import type { Figure } from "../heard/figure";
import { MeasureSound } from "./MeasureSound";
import { Rest } from "./Rest";
import type { Coming, Mark, Struck, Take } from "../heard/take";
import { WriteDown } from "./WriteDown";
import { VolumeLeft } from "./Volumes";
import { levelsOf } from "../heard/words";
import { usePlannedName } from "../../ui/StrikePicker";
import { Window } from "../../ui/Window";
import { Radios } from "../../ui/Radios";

interface Props {
  take: Take;
  last: Mark | undefined;
  strikes: Struck[]; //: of the last set
  next: Coming | null;
  pick: (what: Coming) => void;
  begin: (what: Coming) => void;
  figure: Figure;
  registry: Schemas["Registry"];
  now: () => number;
}

/** Between sets: how long the rest is, what stood out, what comes next. */
export function BetweenSets({ take, last, strikes, next, pick, begin, figure, registry, now }: Props) {
  const plannedName = usePlannedName();
  const cautions = useEvening(take.evening_id).data?.cautions ?? [];
  const [choosing, setChoosing] = useState(false);
  const [figures, setFigures] = useState(false);
  const [units] = useUnits();
  const [round, setRound] = useState(false);
  const [sound, setSound] = useState(false);
  const said = take.said.find((s) => s.mark === last?.key);
  const others = take.coming.filter((c) => c !== next).slice(0, 3);
  return (
    <div className="grid h-full min-h-0 content-start gap-x-8 gap-y-3 overflow-auto pt-3 md:grid-cols-2 portrait:md:grid-cols-1">
      <section aria-label="Next" className="min-w-0">
        <p className="text-lg text-soft">Next</p>
        {next ? (
          <>
            <p className="wide-title text-3xl leading-tight sm:text-5xl">{levelsOf(next.levels) || plannedName(next.code)}</p>
            <p className="mt-1 text-xl text-soft sm:text-2xl">
              {levelsOf(next.levels) && `${plannedName(next.code).toLowerCase()}`}
              {next.level && `${levelsOf(next.levels) ? ", " : ""}${next.level}`}
              {next.strikes && ` · ${next.strikes} strikes`}
              {next.block !== null && ` · block ${next.block + 1} of ${next.blocks}`}
            </p>
          </>
        ) : (
          <p className="text-2xl">Nothing is planned. Choose what is thrown.</p>
        )}
        {!last && cautions.length > 0 && <p className="mt-3 border-l-4 border-buoy pl-3 text-lg sm:text-xl">{cautions[0]}</p>}
        <div className="mt-4 flex flex-wrap gap-3">
          {others.map((c, k) => (
            <button key={`${c.planned_id}-${c.trial_id}-${c.block}-${k}`} className="action min-h-16 min-w-16 px-4 text-base" onClick={() => pick(c)}>
              {levelsOf(c.levels) || plannedName(c.code)}
            </button>
          ))}
          <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setChoosing(true)}>
            Another set
          </button>
          <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setRound(true)}>
            Round with calls
          </button>
          <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setFigures(true)}>
            Figure: {figure.choices.find((c) => c.name === figure.choice)?.label}
          </button>
          <button className="action min-h-16 min-w-16 px-4 text-base" aria-haspopup="dialog" onClick={() => setSound(true)}>
            Sound
          </button>
          <WriteDown take={take} />
        </div>
      </section>
      <section aria-label="The last set" className="min-w-0">
        {last ? (
          <>
            <Rest since={last.until!} now={now} asked={next?.rest_s ?? null} />
            <LastSet mark={last} strikes={strikes} figure={figure} />
            {said && (
              <p className="mt-3 border-l-4 border-oar pl-3 text-xl sm:text-2xl" data-said>
                {inUnits(said.sentence, units)}
              </p>
            )}
            {last.code === "called" && <CallsTold take={take} />}
            {take.bursts?.mark === last.key && <BurstsTold told={take.bursts} />}
            {last.early > 0 && <p className="mt-2 text-lg text-buoy-ink">It was started {last.early} early.</p>}
          </>
        ) : (
          <Ready take={take} />
        )}
        {take.volumes.map((v) => (
          <div key={v.id} className="mt-3 max-w-md">
            <VolumeLeft volume={v} />
          </div>
        ))}
      </section>
      <ChooseSet open={choosing} close={() => setChoosing(false)} begin={begin} />
      {round && <ChooseRound take={take} close={() => setRound(false)} />}
      {sound && <MeasureSound takeId={take.id} close={() => setSound(false)} />}
      <ChooseFigure open={figures} close={() => setFigures(false)} figure={figure} registry={registry} />
    </div>
  );
}

function Ready({ take }: { take: Take }) {
  return (
    <div className="text-lg">
      <p className="text-2xl">Ready when {take.student.split(" ")[0]} is.</p>
      <p className="mt-1 text-soft">Build up: light, half, three-quarter before any full strike. Stop on pain.</p>
    </div>
  );
}

function LastSet({ mark, strikes, figure }: { mark: Mark; strikes: Struck[]; figure: Figure }) {
  const plannedName = usePlannedName();
  const [units] = useUnits();
  const m = figure.measure;
  const values = strikes.flatMap((s) => s.measures[m.name]?.[0] ?? []);
  const mean = values.length ? values.reduce((a, b) => a + b, 0) / values.length : null;
  const sd = values.length > 1 ? Math.sqrt(values.reduce((a, b) => a + (b - mean!) ** 2, 0) / (values.length - 1) / values.length) : null;
  const shown = figure.choice === "none" || figure.choice === "word" ? null : show(m, mean, sd, units);
  const waits = strikes.some((s) => s.flags.includes("provisional"));
  return (
    <p className="mt-2 text-xl">
      {levelsOf(mark.levels) || plannedName(mark.code)}: <b>{strikes.length}</b>
      {mark.wanted ? ` of ${mark.wanted}` : ""} strikes
      {shown && (
        <>
          , {m.label.toLowerCase()}{" "}
          <b className="numeric">
            {shown.value} {shown.unit}
          </b>{" "}
          <span className="numeric text-soft">{shown.doubt}</span>
        </>
      )}
      {waits && <span className="text-soft"> · settling …</span>}
    </p>
  );
}

function ChooseFigure({ open, close, figure, registry }: { open: boolean; close: () => void; figure: Figure; registry: Schemas["Registry"] }) {
  const chosen = registry.measures.find((m) => m.name === figure.choice);
  return (
    <Window open={open} close={close} title="What fills the screen" far>
      <Radios
        name="Figure"
        values={figure.choices}
        chosen={figure.choices.find((c) => c.name === figure.choice) ?? null}
        choose={(c) => figure.choose(c.name)}
        tell={(c) => c.label}
        keyOf={(c) => c.name}
        className="mt-3 grid grid-cols-2 gap-3 md:grid-cols-3"
        each="min-h-16 text-lg"
        touched={close}
      />
      <p className="mt-4 text-soft">{chosen?.meaning ?? "Some drill is better unseen: strikes are counted and measured all the same."}</p>
    </Window>
  );
}
