import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, csrfToken, Refused, unwrap, type Schemas } from "./client";

export function useMe() {
  return useQuery({ queryKey: ["me"], queryFn: async () => unwrap(await client.GET("/api/session")), staleTime: Infinity });
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
  return useQuery({
    queryKey: ["recordings", id],
    enabled: id !== undefined,
    queryFn: async () =>
      unwrap(await client.GET("/api/recordings/{recording_id}", { params: { path: { recording_id: id! } } })),
  });
}

export function useStrikes(id: number | undefined) {
  return useQuery({
    queryKey: ["recordings", id, "strikes"],
    enabled: id !== undefined,
    queryFn: async () =>
      unwrap(await client.GET("/api/recordings/{recording_id}/strikes", { params: { path: { recording_id: id! } } })),
  });
}

export function useCurves(ids: number[]) {
  return useQuery({
    queryKey: ["curves", ids],
    enabled: ids.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
    queryFn: async () => unwrap(await client.GET("/api/curves", { params: { query: { ids } } })),
  });
}

/** Throw strikes out, or take them back; the table shows it at once and goes back if the server refuses. */
export function useExclusion(recordingId: number | undefined) {
  const queries = useQueryClient();
  const key = ["recordings", recordingId, "strikes"];
  return useMutation({
    mutationFn: async ({ ids, reason }: { ids: number[]; reason: string | null }) =>
      reason === null
        ? unwrap(await client.POST("/api/strikes/restore", { body: { ids } }))
        : unwrap(await client.POST("/api/strikes/exclude", { body: { ids, reason } })),
    onMutate: async ({ ids, reason }) => {
      await queries.cancelQueries({ queryKey: key });
      const before = queries.getQueryData<Schemas["Strikes"]>(key);
      if (before) {
        const chosen = new Set(ids);
        const excluded = before.excluded.map((was, i) => (chosen.has(before.id[i]!) ? (reason ?? "") : was));
        queries.setQueryData(key, { ...before, excluded });
      }
      return { before };
    },
    onError: (_error, _what, context) => {
      if (context?.before) queries.setQueryData(key, context.before);
    },
    onSettled: () => queries.invalidateQueries({ queryKey: key }),
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
export function sendFile(file: File, studentId: number, onProgress: (share: number) => void, signal: AbortSignal) {
  return new Promise<Schemas["UploadOut"]>((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", `/api/uploads?student_id=${studentId}`);
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
      if (request.status === 201) resolve(body as Schemas["UploadOut"]);
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
