import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { client, unwrap, type Schemas } from "../api/client";
import { useNobodys, useTonight } from "../bag/heard/take";
import { useZone } from "../api/queries";
import { clock } from "../format";
import { Problem } from "../ui/state";

/** Blows at a station while nobody was said to stand there: they can still be somebody's. */
export function Whose({ station }: { station: Schemas["StationRow"] }) {
  const blows = useNobodys(station.id);
  const tonight = useTonight();
  const queries = useQueryClient();
  const zone = useZone();
  const [who, setWho] = useState<number | null>(null);
  const theirs = useMutation({
    mutationFn: async () => {
      const body = { student_id: who!, since: blows!.since, until: blows!.until, key: Math.random().toString(36).slice(2, 14) };
      return unwrap(await client.POST("/api/stations/{station_id}/nobodys", { params: { path: { station_id: station.id } }, body })).changed;
    },
    onSuccess: () => queries.invalidateQueries(),
  });
  if (theirs.data)
    return (
      <p role="status" className="mb-3 border-l-4 border-oar py-2 pl-3">
        They are measured now.{" "}
        <Link className="plain" to={`/evenings/${theirs.data}`}>
          See the evening
        </Link>
      </p>
    );
  if (!blows) return null;
  const could = (tonight.data ?? []).filter((t) => !t.stopped).sort((a, b) => Number(b.here) - Number(a.here) || a.name.localeCompare(b.name));
  const [from, to] = [blows.since, blows.until].map((at) => clock(at, 0, zone).slice(0, 5));
  return (
    <div className="mb-3 border-l-4 border-buoy py-2 pl-3">
      <p>
        <b>{blows.blows} blows</b> {from === to ? `at ${from}` : `from ${from} to ${to}`} while nobody was said to stand here. Whose were these? After a quarter of an hour they are forgotten.
      </p>
      <div className="mt-2 flex flex-wrap gap-3">
        <select className="field min-h-12 w-64" aria-label={`Whose the blows at ${station.name} were`} value={who ?? ""} onChange={(e) => setWho(Number(e.target.value) || null)}>
          <option value="">Choose a student</option>
          {could.map((t) => (
            <option key={t.student_id} value={t.student_id}>
              {t.name}
            </option>
          ))}
        </select>
        <button className="action min-h-12 px-5" disabled={who === null || theirs.isPending} onClick={() => theirs.mutate()}>
          Theirs
        </button>
      </div>
      <Problem error={theirs.error} />
    </div>
  );
}
