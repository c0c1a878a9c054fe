import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { client, Refused, type Schemas } from "../api/client";
import { sendFile, useStudent, useUploads } from "../api/queries";
import { megabytes } from "../format";
import { Failed } from "../ui/state";
import { Bar } from "../ui/Bar";
import { TablePanel } from "./TablePanel";

interface Sending {
  key: string;
  name: string;
  share: number;
  error: string | null;
  stop: AbortController;
}

/** Bring in what the bag's unit recorded. */
export function BringPage() {
  const studentId = Number(useParams().studentId);
  const student = useStudent(studentId);
  const queries = useQueryClient();
  const [sending, setSending] = useState<Sending[]>([]);
  const change = (key: string, part: Partial<Sending>) =>
    setSending((all) => all.map((s) => (s.key === key ? { ...s, ...part } : s)));

  const send = (files: File[]) => {
    for (const file of files) {
      const one: Sending = { key: `${file.name}-${performance.now()}`, name: file.name, share: 0, error: null, stop: new AbortController() };
      setSending((all) => [one, ...all]);
      const bring = async () => {
        const progress = (share: number) => change(one.key, { share });
        if (/\.zip$/i.test(file.name)) {
          await sendFile<Schemas["UploadOut"]>(`/api/uploads?student_id=${studentId}`, file, progress, one.stop.signal);
          await queries.invalidateQueries({ queryKey: ["uploads"] });
        } else {
          await sendFile<Schemas["TableOut"]>(`/api/tables?student_id=${studentId}`, file, progress, one.stop.signal);
          await queries.invalidateQueries({ queryKey: ["tables", studentId] });
        }
        setSending((all) => all.filter((s) => s.key !== one.key));
      };
      bring().catch((error: unknown) => change(one.key, { error: error instanceof Refused ? error.message : "The file could not be sent. Try again." }));
    }
  };

  if (student.error) return <Failed error={student.error} />;
  return (
    <div className="mx-auto max-w-4xl p-6">
      <h1 className="wide-title text-2xl">Bring in a recording</h1>
      <p className="mt-1 text-soft">
        For {student.data?.name ?? "…"}. A zip of a Motion-BIDS data set; or what any logger wrote, as CSV, text or C3D, several units at once. Strikes are found and measured as it comes in.
      </p>
      {student.data?.stopped ? (
        <p role="alert" className="mt-4 border-l-4 border-buoy pl-3">
          {student.data.stopped}{" "}
          <Link className="plain" to={`/students/${studentId}`}>
            Go to the page
          </Link>
        </p>
      ) : (
        <Drop onFiles={send} />
      )}
      <TablePanel studentId={studentId} />
      <section aria-label="Imports" className="mt-6">
        {sending.map((s) => (
          <SendingRow key={s.key} sending={s} dismiss={() => setSending((all) => all.filter((o) => o.key !== s.key))} />
        ))}
        <Imports studentId={studentId} />
      </section>
    </div>
  );
}

function Drop({ onFiles }: { onFiles: (files: File[]) => void }) {
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  return (
    <div
      className={`mt-5 flex flex-col items-center gap-3 rounded border-2 border-dashed p-10 text-center ${over ? "border-oar bg-shade" : "border-line"}`}
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        onFiles([...e.dataTransfer.files]);
      }}
    >
      <p className="text-lg">Drop the files here</p>
      <input
        ref={picker}
        type="file"
        accept=".zip,.csv,.tsv,.txt,.dat,.c3d,application/zip,text/*"
        multiple
        className="sr-only"
        aria-label="Choose files"
        tabIndex={-1}
        onChange={(e) => {
          onFiles([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
      <button className="action-main min-h-12 px-6 text-base" onClick={() => picker.current?.click()}>
        Choose files
      </button>
    </div>
  );
}

function SendingRow({ sending, dismiss }: { sending: Sending; dismiss: () => void }) {
  return (
    <article className="border-t border-line py-3">
      <div className="flex items-baseline justify-between gap-4">
        <h2 className="font-semibold break-all">{sending.name}</h2>
        <button className="plain shrink-0 py-1" onClick={() => (sending.error ? dismiss() : sending.stop.abort())}>
          {sending.error ? "Dismiss" : "Cancel"}
        </button>
      </div>
      {sending.error ? (
        <p role="alert" className="mt-1 border-l-4 border-buoy pl-3">
          {sending.error}
        </p>
      ) : (
        <>
          <p className="text-soft">Sending, {Math.round(100 * sending.share)} %</p>
          <Bar share={sending.share} label={`Sending ${sending.name}`} />
        </>
      )}
    </article>
  );
}

function Imports({ studentId }: { studentId: number }) {
  const uploads = useUploads();
  const queries = useQueryClient();
  const mine = uploads.data?.filter((u) => u.student_id === studentId) ?? [];
  const done = mine.filter((u) => u.state === "done").map((u) => u.id).join(); // not how many: the list is of the latest alone
  useEffect(() => {
    // a finished import adds to the student's recordings, and takes the tables that it was made of
    void queries.invalidateQueries({ queryKey: ["students"] });
    void queries.invalidateQueries({ queryKey: ["tables"] });
  }, [done, queries]);
  if (uploads.error) return <Failed error={uploads.error} retry={() => void uploads.refetch()} />;
  return mine.map((u) => <ImportRow key={u.id} upload={u} />);
}

function ImportRow({ upload }: { upload: Schemas["UploadOut"] }) {
  const queries = useQueryClient();
  const open = upload.state === "queued" || upload.state === "running";
  const cancel = async () => {
    await client.POST("/api/uploads/{upload_id}/cancel", { params: { path: { upload_id: upload.id } } });
    await queries.invalidateQueries({ queryKey: ["uploads"] });
  };
  const first = upload.recordings[0];
  return (
    <article className="border-t border-line py-3" aria-live="polite">
      <div className="flex items-baseline justify-between gap-4">
        <h2 className="font-semibold break-all">
          {upload.file_name} <span className="font-normal text-soft">{megabytes(upload.size_bytes)}</span>
        </h2>
        {open && (
          <button className="plain shrink-0 py-1" onClick={() => void cancel()}>
            Cancel
          </button>
        )}
        {upload.state === "done" && first !== undefined && (
          <Link className="plain shrink-0 py-1 font-semibold" to={`/students/${upload.student_id}/read?recording=${first}`}>
            Read it
          </Link>
        )}
      </div>
      {open ? (
        <>
          <p className="text-soft">{upload.stage}</p>
          <Bar share={upload.progress} label={`Importing ${upload.file_name}`} />
        </>
      ) : upload.state === "failed" ? (
        <p role="alert" className="mt-1 border-l-4 border-buoy pl-3">
          {upload.message} Nothing was saved.
        </p>
      ) : (
        <p className="text-soft">{upload.message}</p>
      )}
    </article>
  );
}
