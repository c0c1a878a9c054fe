import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, unwrap } from "../api/client";
import { useEvening } from "../api/evening";
import { usePlaybook, type Of } from "../playbook/entries";
import { Problem } from "../ui/state";

type Point = { key: string; content: Of<"point"> };

interface Props {
  eveningId: number | null;
  only?: "eye"; //: what no unit sees; else the whole set-up check
}

/** The set-up check, kept with its evening: good, off, or not looked at. */
export function EyePoints({ eveningId, only }: Props) {
  const book = usePlaybook();
  const evening = useEvening(eveningId);
  const queries = useQueryClient();
  const look = useMutation({
    mutationFn: async (body: { point: string; good: boolean | null }) => unwrap(await client.PUT("/api/evenings/{evening_id}/looked", { params: { path: { evening_id: eveningId! } }, body })),
    onSettled: () => queries.invalidateQueries({ queryKey: ["evening", eveningId], exact: true }),
  });
  const points: Point[] = (book.data ?? []).flatMap((e) => (e.content.kind === "point" && !e.off && !(only && e.content.measures?.length) ? [{ key: e.key, content: e.content }] : []));
  if (points.length === 0) return null;
  const saw = new Map(evening.data?.looked.map((l) => [l.point, l.good]));
  const done = points.filter((p) => saw.has(p.key)).length;
  const off = points.filter((p) => saw.get(p.key) === false);
  return (
    <details className="border-t border-line pt-1">
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        {only ? "What only you see" : "Set-up check"}, {done} of {points.length}
        {off.length > 0 && <span className="font-normal text-buoy-ink"> · off: {off.map((p) => p.content.name.toLowerCase()).join(", ")}</span>}
      </summary>
      {eveningId === null && <p className="text-soft">Tick the student as here first: the check is kept with the evening.</p>}
      <Problem error={look.error} />
      <ul>
        {points.map(({ key, content }) => (
          <li key={key} className="flex items-center gap-2 border-b border-line py-1">
            <span className="flex-1">
              <b>{content.name}</b> {!only && <span className="text-soft">{content.look_for}</span>}
              {saw.get(key) === false && content.mistake && <span className="block text-buoy-ink">{content.mistake}</span>}
            </span>
            {[true, false].map((good) => {
              const on = saw.get(key) === good;
              return (
                <button key={String(good)} aria-pressed={on} aria-label={`${content.name}: ${good ? "good" : "off"}`} disabled={eveningId === null} className={`${on ? "action-main" : "action"} min-h-11 w-14 px-1`} onClick={() => look.mutate({ point: key, good: on ? null : good })}>
                  {good ? "good" : "off"}
                </button>
              );
            })}
          </li>
        ))}
      </ul>
    </details>
  );
}
