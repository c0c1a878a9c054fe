import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, unwrap, type Schemas } from "../api/client";
import { sendFile, useZone } from "../api/queries";
import { clock, day, megabytes } from "../format";
import { Bar } from "../ui/Bar";
import { Problem } from "../ui/state";

const LOOK_MS = 400;
const runs = (a: Schemas["ArchiveOut"] | undefined) => a?.state === "queued" || a?.state === "running";

/** All of the gym out as one file, and an archive into a gym that is empty still. */
export function Archives() {
  const queries = useQueryClient();
  const zone = useZone();
  const [whole, setWhole] = useState(true);
  const [sent, setSent] = useState<number | null>(null);
  const picker = useRef<HTMLInputElement>(null);
  const archives = useQuery({
    queryKey: ["archives"],
    queryFn: async () => unwrap(await client.GET("/api/archives")),
    refetchInterval: (query) => (runs(query.state.data?.[0]) ? LOOK_MS : false),
  });
  const again = () => queries.invalidateQueries({ queryKey: ["archives"] });
  const write = useMutation({
    mutationFn: async () => unwrap(await client.POST("/api/archives", { body: { motion_bids: whole } })),
    onSettled: again,
  });
  const bring = useMutation({
    mutationFn: (file: File) => sendFile<Schemas["ArchiveOut"]>("/api/archives/in", file, setSent, new AbortController().signal),
    onSettled: () => {
      setSent(null);
      return again();
    },
  });
  const cancel = useMutation({
    mutationFn: async (archive_id: number) => unwrap(await client.POST("/api/archives/{archive_id}/cancel", { params: { path: { archive_id } } })),
    onSettled: again,
  });
  const latest = archives.data?.[0];
  const busy = runs(latest) || write.isPending || bring.isPending;
  const came = latest?.way === "in" && latest.state === "done";
  return (
    <section aria-label="Archive" className="mt-8 border-t border-line pt-3">
      <h2 className="wide-title text-lg">All of this gym as one file</h2>
      <p className="mt-1">Every evening, strike, note and plan as open tables, and the units’ samples as they came. An empty gym on any server takes it in with equal figures.</p>
      <label className="mt-1 flex min-h-11 items-center gap-2">
        <input type="checkbox" className="size-5" checked={whole} onChange={(e) => setWhole(e.target.checked)} />
        Recordings as Motion-BIDS besides, for other programs: takes many times as long
      </label>
      <span className="flex flex-wrap gap-3">
        <button className="action min-h-11" disabled={busy} onClick={() => write.mutate()}>
          Write an archive
        </button>
        <button className="action min-h-11" disabled={busy} onClick={() => picker.current?.click()}>
          Bring an archive in
        </button>
      </span>
      <input
        ref={picker}
        type="file"
        accept=".zip"
        className="hidden"
        aria-label="An archive’s file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) bring.mutate(file);
        }}
      />
      {sent !== null && <Far share={sent} said="Sending the file" />}
      {latest && runs(latest) && (
        <div className="flex items-end gap-3">
          <div className="grow">
            <Far share={latest.progress} said={`${latest.way === "out" ? "Writing" : "Bringing in"}: ${latest.stage}`} />
          </div>
          <button className="plain min-h-11" disabled={cancel.isPending} onClick={() => cancel.mutate(latest.id)}>
            Cancel
          </button>
        </div>
      )}
      {latest && !runs(latest) && (
        <p className="mt-2" role="status">
          {latest.waits ? (
            <>
              <a className="plain inline-flex min-h-11 items-center" href={`/api/archives/${latest.id}/file.zip`} download>
                Save {latest.file_name}
              </a>{" "}
              <span className="text-soft">
                ({megabytes(latest.size_bytes)}, {day(latest.created_at, zone)}, {clock(latest.created_at, 0, zone)}; kept for three days)
              </span>
            </>
          ) : (
            latest.message
          )}
          {came && (
            <button className="action ml-3 min-h-11" onClick={() => location.assign("/")}>
              To the evening
            </button>
          )}
        </p>
      )}
      <Problem error={write.error ?? bring.error ?? cancel.error ?? archives.error} />
    </section>
  );
}

function Far({ share, said }: { share: number; said: string }) {
  return (
    <div className="mt-2">
      <p className="text-soft">{said}</p>
      <Bar share={share} label={said} />
    </div>
  );
}
