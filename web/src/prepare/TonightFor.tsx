import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { useEvening } from "../api/evening";
import { ChooseSet } from "../bag/between/ChooseSet";
import { levelsOf } from "../bag/heard/words";
import { useZone } from "../api/queries";
import { today } from "../format";
import { usePlannedWeek, useTonight } from "../plan/week";
import { Problem } from "../ui/state";
import { Condition } from "./Condition";
import { useCame } from "./came";
import { VolumesFor } from "./VolumesFor";
import { usePlannedName } from "../ui/StrikePicker";

type Planned = Schemas["PlannedOut"];

/** What tonight holds for one student, in an order that can be moved. */
export function TonightFor({ row }: { row: Schemas["Tonight"] }) {
  const plannedName = usePlannedName();
  const came = useCame();
  const evening = useEvening(row.evening_id);
  const queries = useQueryClient();
  const [adding, setAdding] = useState(false);
  const zone = useZone();
  const week = usePlannedWeek(row.student_id, null).data;
  const ofPlan = week?.parts.filter((p) => week.days[p.day]?.on === today(zone)) ?? [];
  const take = useTonight(row.student_id);
  const refresh = () => {
    void queries.invalidateQueries({ queryKey: ["evening", row.evening_id] });
    void queries.invalidateQueries({ queryKey: ["tonight"] });
    void queries.invalidateQueries({ queryKey: ["take"] });
  };
  const change = useMutation({ mutationFn: async (send: () => Promise<unknown>) => send(), onSettled: refresh });
  const id = row.evening_id;
  const planned = evening.data?.planned ?? [];
  const coming = planned.filter((p) => !p.began_at);
  const done = planned.filter((p) => p.began_at);
  const ramp = () => change.mutate(async () => unwrap(await client.POST("/api/evenings/{evening_id}/ramp", { params: { path: { evening_id: id! } }, body: { code: "rear-straight", limb: "" } })));
  const move = (p: Planned, to: number) => change.mutate(async () => unwrap(await client.PUT("/api/planned-sets/{planned_id}/place", { params: { path: { planned_id: p.id } }, body: { place: to } })));
  const drop = (p: Planned) => change.mutate(async () => unwrap(await client.DELETE("/api/planned-sets/{planned_id}", { params: { path: { planned_id: p.id } } })));
  const add = (body: Schemas["PlanIn"]) => change.mutate(async () => unwrap(await client.POST("/api/evenings/{evening_id}/sets", { params: { path: { evening_id: id! } }, body })));
  return (
    <section aria-label="Tonight" className="min-w-0">
      <h2 className="wide-title text-lg">Tonight for {row.name}</h2>
      {row.stopped ? (
        <p className="mt-2 border-l-4 border-buoy pl-3">{row.stopped}</p>
      ) : id === null || !row.here ? (
        <div className="mt-2">
          <p className="text-soft">{row.name} is not marked as here.</p>
          <button className="action mt-3 min-h-16 px-6 text-lg" disabled={came.isPending} onClick={() => came.mutate({ studentId: row.student_id, here: true })}>
            {row.name.split(" ")[0]} is here
          </button>
        </div>
      ) : (
        <>
          <Condition row={row} evening={evening.data} />
          <ol className="mt-2">
            {done.length > 0 && <li className="border-t border-line py-2 text-soft">{done.length === 1 ? "1 set" : `${done.length} sets`} thrown already</li>}
            {coming.map((p, k) => (
              <li key={p.id} className="flex min-h-16 items-center gap-3 border-t border-line">
                <b className="numeric w-6 text-lg">{done.length + k + 1}</b>
                <span className="min-w-0 flex-1">
                  <span className="text-base">{levelsOf(p.levels) ? `${p.levels.effort ? "Ramp: " : ""}${levelsOf(p.levels)}` : plannedName(p.code)}</span>{" "}
                  <span className="text-soft">
                    {levelsOf(p.levels) && plannedName(p.code).toLowerCase()} {p.level} {p.strikes && `${p.strikes} strikes`}
                  </span>
                </span>
                <button className="action size-12 shrink-0" aria-label={`Move ${plannedName(p.code)} up`} disabled={k === 0 || change.isPending} onClick={() => move(p, k - 1)}>
                  ↑
                </button>
                <button className="action size-12 shrink-0" aria-label={`Move ${plannedName(p.code)} down`} disabled={k === coming.length - 1 || change.isPending} onClick={() => move(p, k + 1)}>
                  ↓
                </button>
                <button className="action size-12 shrink-0" aria-label={`Take ${plannedName(p.code)} off`} disabled={change.isPending} onClick={() => drop(p)}>
                  ✕
                </button>
              </li>
            ))}
            {row.trials.map((factor) => (
              <li key={factor} className="border-t border-line py-3 text-soft">
                Trial of {factor}: its blocks come after, in their own order.
              </li>
            ))}
            {coming.length === 0 && row.trials.length === 0 && <li className="border-t border-line py-3 text-soft">Nothing planned yet. What is thrown can also be said at the bag.</li>}
          </ol>
          {evening.data && evening.data.cautions.length > 0 && (
            <section aria-label="To mind" className="mt-3 border-l-4 border-buoy pl-3">
              {evening.data.cautions.map((c) => (
                <p key={c}>{c}</p>
              ))}
            </section>
          )}
          <div className="mt-3 flex flex-wrap gap-3 border-t border-line pt-3">
            {ofPlan.length > 0 && planned.length === 0 && (
              <button className="action-main min-h-14 px-4" disabled={take.isPending} onClick={() => take.mutate()}>
                Take tonight’s plan: {ofPlan.map((p) => p.name.split(":")[0]!.toLowerCase()).join(", ")}
              </button>
            )}
            {!planned.some((p) => p.levels.effort) && (
              <button className="action min-h-14 px-4" disabled={change.isPending} onClick={ramp}>
                Add the ramp: light, half, three-quarter
              </button>
            )}
            <button className="action min-h-14 px-4" onClick={() => setAdding(true)}>
              Add a set
            </button>
          </div>
          <Problem error={change.error ?? take.error ?? evening.error} />
          <VolumesFor key={id} eveningId={id} child={row.child} changed={refresh} />
          <ChooseSet
            open={adding}
            close={() => setAdding(false)}
            go="Add it"
            begin={(c) => add({ code: c.code, limb: c.limb, level: c.level, levels: {}, strikes: c.strikes, gear: "" })}
          />
        </>
      )}
    </section>
  );
}
