import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { client, csrfToken, Refused, unwrap } from "./client";
import { useRemoving } from "./removal";

export function useMe() {
  return useQuery({ queryKey: ["me"], queryFn: async () => unwrap(await client.GET("/api/session")), staleTime: Infinity });
}

/** The gym's time zone. */
export function useZone(): string {
  return useMe().data?.me?.time_zone ?? "UTC";
}

export function useRegistry() {
  return useQuery({
    queryKey: ["measures"],
    queryFn: async () => unwrap(await client.GET("/api/measures")),
    staleTime: Infinity,
  });
}

export function useStudents() {
  return useQuery({ queryKey: ["students"], queryFn: async () => unwrap(await client.GET("/api/students")) });
}

export function useStudent(id: number) {
  return useQuery({
    queryKey: ["students", id],
    queryFn: async () =>
      unwrap(await client.GET("/api/students/{student_id}", { params: { path: { student_id: id } } })),
  });
}

export function useBags() {
  return useQuery({ queryKey: ["bags"], queryFn: async () => unwrap(await client.GET("/api/bags")) });
}

export function useKitUnits() {
  return useQuery({ queryKey: ["units"], queryFn: async () => unwrap(await client.GET("/api/units")) });
}

export function useCalibrations() {
  return useQuery({ queryKey: ["calibrations"], queryFn: async () => unwrap(await client.GET("/api/calibrations")) });
}

export function useRecordings(studentId: number) {
  return useQuery({
    queryKey: ["students", studentId, "recordings"],
    queryFn: async () =>
      unwrap(
        await client.GET("/api/students/{student_id}/recordings", { params: { path: { student_id: studentId } } }),
      ),
  });
}

export function useRecording(id: number | undefined) {
  const removing = useRemoving();
  return useQuery({
    queryKey: ["recordings", id],
    enabled: id !== undefined && !removing,
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/recordings/{recording_id}", { signal, params: { path: { recording_id: id! } } })),
  });
}

export function useStrikes(id: number | undefined) {
  const removing = useRemoving();
  return useQuery({
    queryKey: ["recordings", id, "strikes"],
    enabled: id !== undefined && !removing,
    queryFn: async ({ signal }) =>
      unwrap(await client.GET("/api/recordings/{recording_id}/strikes", { signal, params: { path: { recording_id: id! } } })),
  });
}

export function useCurves(ids: number[]) {
  const removing = useRemoving();
  return useQuery({
    queryKey: ["curves", ids],
    enabled: ids.length > 0 && !removing,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () => unwrap(await client.GET("/api/curves", { params: { query: { ids } } })),
  });
}

/** One strike, opened: its curves from the floor up, its force over time, its school's judgement. */
export function useStrikePage(strikeId: number | undefined, setId: number | null | undefined, under = "") {
  const removing = useRemoving();
  return useQuery({
    queryKey: ["strike", strikeId, under, setId],
    enabled: strikeId !== undefined && !removing,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
    retry: false,
    queryFn: async ({ signal }) => unwrap(await client.GET("/api/strikes/{strike_id}", { signal, params: { path: { strike_id: strikeId! }, query: { under } } })),
  });
}

/** Why each measure that a strike lacks is not there. */
export function useAbsent(strikeId: number) {
  const removing = useRemoving();
  return useQuery({
    queryKey: ["absent", strikeId],
    enabled: !removing,
    staleTime: 60_000,
    queryFn: async ({ signal }) => unwrap(await client.GET("/api/strikes/{strike_id}/absent", { signal, params: { path: { strike_id: strikeId } } })),
  });
}

export function useSchools() {
  return useQuery({ queryKey: ["schools"], queryFn: async () => unwrap(await client.GET("/api/schools")) });
}

export function useTables(studentId: number) {
  return useQuery({
    queryKey: ["tables", studentId],
    queryFn: async () => unwrap(await client.GET("/api/students/{student_id}/tables", { params: { path: { student_id: studentId } } })),
    refetchInterval: (query) => (query.state.data?.some((t) => t.state === "queued" || t.state === "running") ? 400 : false),
  });
}

export function useUploads() {
  return useQuery({
    queryKey: ["uploads"],
    queryFn: async () => unwrap(await client.GET("/api/uploads")),
    refetchInterval: (query) =>
      query.state.data?.some((u) => u.state === "queued" || u.state === "running") ? 400 : false,
  });
}

/** Send a file; `onProgress` hears how much of it has left this machine, 0 to 1. */
export function sendFile<Answer>(address: string, file: File, onProgress: (share: number) => void, signal: AbortSignal) {
  return new Promise<Answer>((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", address);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (e) => e.lengthComputable && onProgress(e.loaded / e.total);
    request.onerror = () => reject(new Refused("The connection broke while sending. Try again.", 0));
    request.onabort = () => reject(new Refused("Cancelled. Nothing was saved.", 0));
    request.onload = () => {
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // no JSON: the message below serves
      }
      if (request.status === 201) resolve(body as Answer);
      else {
        const said = (body as { message?: string } | null)?.message;
        reject(new Refused(said ?? `The server answered with ${request.status}. Try again.`, request.status));
      }
    };
    signal.addEventListener("abort", () => request.abort());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}
