import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, unwrap } from "../api/client";
import { Choice } from "../bag/between/ChooseSet";
import { VolumeLeft } from "../bag/between/Volumes";
import { Problem } from "../ui/state";
import { useFamilyName } from "../ui/StrikePicker";
import { Window } from "../ui/Window";

const FAMILIES = ["round", "front-push", "side", "straight", "hook", "uppercut", "knee-straight", "elbow-across"];
const TOTALS = [20, 40, 50, 100];
const SIZES = [5, 10, 20];

/** Totals that are chipped off through the evening, both sides alike. */
export function VolumesFor({ eveningId, child, changed }: { eveningId: number; child: boolean; changed: () => void }) {
  const familyName = useFamilyName();
  const queries = useQueryClient();
  const key = ["volumes", eveningId];
  const volumes = useQuery({ queryKey: key, queryFn: async () => unwrap(await client.GET("/api/evenings/{evening_id}/volume-counts", { params: { path: { evening_id: eveningId } } })) });
  const [adding, setAdding] = useState(false);
  const [family, setFamily] = useState(FAMILIES[0]!);
  const [total, setTotal] = useState(child ? TOTALS[0]! : TOTALS[3]!);
  const [size, setSize] = useState(SIZES[1]!);
  const change = useMutation({
    mutationFn: async (send: () => Promise<unknown>) => send(),
    onSuccess: () => setAdding(false),
    onSettled: () => {
      void queries.invalidateQueries({ queryKey: key });
      changed();
    },
  });
  const add = () => change.mutate(async () => unwrap(await client.POST("/api/evenings/{evening_id}/volumes", { params: { path: { evening_id: eveningId } }, body: { family, total, size } })));
  const drop = (id: number) => change.mutate(async () => unwrap(await client.DELETE("/api/volumes/{volume_id}", { params: { path: { volume_id: id } } })));
  return (
    <div className="mt-3">
      {volumes.data?.map((v) => (
        <div key={v.id} className="flex items-start gap-3 border-t border-line py-3">
          <div className="min-w-0 flex-1">
            <VolumeLeft volume={v} />
            <p className="text-soft">in sets of {v.size}</p>
          </div>
          <button className="action size-12 shrink-0" aria-label={`Count no ${familyName(v.family).toLowerCase()}`} disabled={change.isPending} onClick={() => drop(v.id)}>
            ✕
          </button>
        </div>
      ))}
      <button className="action min-h-14 px-4" onClick={() => setAdding(true)}>
        Count a volume
      </button>
      <Problem error={volumes.error ?? (adding ? null : change.error)} />
      <Window open={adding} close={() => setAdding(false)} title="Count a volume" far>
        <p className="mt-1 text-soft">Half on each side; what one side owes from before is evened out first. Sloppy ones: slow down or stop.</p>
        <Choice name="Strike" values={FAMILIES} chosen={family} choose={setFamily} tell={familyName} wide />
        <Choice name="In all" values={TOTALS} chosen={total} choose={setTotal} tell={String} />
        <Choice name="In sets of" values={SIZES} chosen={size} choose={setSize} tell={String} />
        <div className="mt-5 flex gap-3">
          <button className="action-main min-h-16 flex-1 text-xl" disabled={change.isPending} onClick={add}>
            Count them
          </button>
          <button className="action min-h-16 px-6 text-lg" onClick={() => setAdding(false)}>
            Not now
          </button>
        </div>
        <Problem error={change.error} />
      </Window>
    </div>
  );
}
