/** Long work on the server: asked for, followed over a socket, stopped. */
import { type QueryClient, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef } from 'react';
import {
  answered,
  api,
  askAgain,
  type Compared,
  type FlawKind,
  type Job,
  type LengthUnit,
  type MendOptions,
  type MeshFindings,
  type PieceState,
  pauseBefore,
} from './client';
import { newRequestId, pieceKey } from './pieces';

const JOBS = ['jobs'];
const findingsKey = (id: string) => ['mesh-findings', id];

/** What a job says of one mesh. */
export type Told = { triangles: number; bodies: number; volume_mm3: number; manifold: boolean };

/** What a job says of one mesh that it mended, or would have. */
export type Mended = {
  /** Of the mended mesh; only where it was kept. */
  sha256?: string;
  report: Told & {
    before: Told;
    steps: { step: string; count: number }[];
    deviation_mm: number | null;
    typical_deviation_mm: number | null;
    seconds: number;
    proposal?: { why: string; wall_mm: number };
  };
};

export const ended = (job: Job) =>
  job.state === 'done' || job.state === 'failed' || job.state === 'cancelled';

/** Asks for the jobs anew. A list that is just on its way was made before what has changed, and is not waited for. */
export async function lookAgain(client: QueryClient) {
  await client.cancelQueries({ queryKey: JOBS });
  await client.invalidateQueries({ queryKey: JOBS });
}

/** All jobs, the newest first; kept up to date by the socket while something that asks for them is in sight. */
export function useJobs() {
  const client = useQueryClient();
  useEffect(() => follow(() => void lookAgain(client)), [client]);
  return useQuery({
    queryKey: JOBS,
    queryFn: () => answered<Job[]>(api.GET('/api/jobs')),
    retry: askAgain,
    retryDelay: pauseBefore,
    // The socket tells of changes; this is for when it is down.
    refetchInterval: (query) => (query.state.data?.some((j) => !ended(j)) ? 3000 : false),
  });
}

/** The jobs of one piece; when one ends, what it may have changed is asked for again. */
export function usePieceJobs(pieceId: string): Job[] {
  const client = useQueryClient();
  const all = useJobs().data;
  const jobs = useMemo(() => all?.filter((job) => job.piece_id === pieceId) ?? [], [all, pieceId]);
  // Those that had ended when the page began; every other one is news when it has.
  const known = useRef<Set<string> | null>(null);
  useEffect(() => {
    if (!all) return;
    const over = jobs.filter((job) => ended(job) && known.current && !known.current.has(job.id));
    known.current = new Set(jobs.filter(ended).map((job) => job.id));
    if (over.length) void client.invalidateQueries({ queryKey: findingsKey(pieceId) });
    if (over.some((job) => job.kind === 'mend'))
      void client.invalidateQueries({ queryKey: pieceKey(pieceId) });
  }, [client, all, jobs, pieceId]);
  return jobs;
}

export function useMeshFindings(pieceId: string, revision: number | undefined) {
  const client = useQueryClient();
  const found = useQuery({
    queryKey: [...findingsKey(pieceId), revision],
    queryFn: () =>
      answered<MeshFindings[]>(
        api.GET('/api/pieces/{piece_id}/mesh-findings', { params: { path: { piece_id: pieceId } } }),
      ),
    enabled: revision !== undefined,
    placeholderData: (last) => last,
  }).data;
  // What nobody has looked over yet is, once somebody wants to know.
  const unseen = found?.some((f) => f.sound == null && !f.job) ?? false;
  useEffect(() => {
    if (!unseen) return;
    const told = answered<MeshFindings[]>(
      api.POST('/api/pieces/{piece_id}/inspect-meshes', { params: { path: { piece_id: pieceId } } }),
    );
    told
      .then((data) => client.setQueryData([...findingsKey(pieceId), revision], data))
      .catch(() => undefined);
  }, [client, pieceId, revision, unseen]);
  return found;
}

/** A mesh that was read is not wanted after all. */
export async function leaveMesh(client: QueryClient, pieceId: string, job: string) {
  const path = { piece_id: pieceId, job_id: job };
  await answered<void>(api.POST('/api/pieces/{piece_id}/bring-in/{job_id}/leave', { params: { path } }));
  await lookAgain(client);
}

export const cancelJob = (id: string) =>
  answered<Job>(api.POST('/api/jobs/{job_id}/cancel', { params: { path: { job_id: id } } }));

export const compareJob = (id: string) =>
  answered<Compared[]>(api.GET('/api/jobs/{job_id}/compare', { params: { path: { job_id: id } } }));

export const mendParts = (pieceId: string, parts: string[], options: MendOptions) =>
  answered<Job>(
    api.POST('/api/pieces/{piece_id}/mend', {
      params: { path: { piece_id: pieceId } },
      body: { parts, options },
    }),
  );

export const mendFlaw = (pieceId: string, flaw: { part: string; kind: FlawKind; number: number | null }) =>
  answered<Job>(
    api.POST('/api/pieces/{piece_id}/mend-flaw', { params: { path: { piece_id: pieceId } }, body: flaw }),
  );

/** What mending would do, worked out by a job that changes nothing; asked anew when meshes or options are others. */
export function useRehearsal(
  pieceId: string,
  meshes: MeshFindings[],
  options: MendOptions,
  enabled: boolean,
) {
  const parts = meshes.map((m) => m.part);
  return useQuery({
    queryKey: ['rehearsal', pieceId, meshes.map((m) => m.sha256), options],
    queryFn: () =>
      answered<Job>(
        api.POST('/api/pieces/{piece_id}/rehearse', {
          params: { path: { piece_id: pieceId } },
          body: { parts, options },
        }),
      ),
    enabled: enabled && parts.length > 0,
    refetchOnWindowFocus: false,
  }).data;
}

export const putMesh = (pieceId: string, job: string, revision: number, unit: LengthUnit | null) =>
  answered<PieceState>(
    api.POST('/api/pieces/{piece_id}/bring-in/{job_id}/put', {
      params: { path: { piece_id: pieceId, job_id: job } },
      body: { base_revision: revision, request_id: newRequestId(), unit },
    }),
  );

/** Sends a file and says how much of it has gone; `stop` breaks it off. By itself `fetch` does not tell of uploads. */
export function sendMesh(pieceId: string, file: File, told: (share: number) => void) {
  const request = new XMLHttpRequest();
  const sent = new Promise<Job>((done, failed) => {
    request.open('POST', `/api/pieces/${pieceId}/bring-in?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader('content-type', 'application/octet-stream');
    request.upload.onprogress = (e) => told(e.total ? e.loaded / e.total : 0);
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText);
        if (request.status < 300) done(answer as Job);
        else failed(new Error(answer.message ?? `the server answered ${request.status}`));
      } catch {
        failed(new Error(`the server answered ${request.status}`));
      }
    };
    request.onerror = () => failed(new Error('the server does not answer; try again when it is back'));
    request.onabort = () => failed(new Error('stopped'));
    request.send(file);
  });
  return { sent, stop: () => request.abort() };
}

/** Calls back whenever a job may have changed. Returns what ends it. */
function follow(changed: () => void): () => void {
  let socket: WebSocket | null = null;
  let over = false;
  const open = () => {
    socket = new WebSocket(`ws://${location.host}/api/jobs/socket`);
    socket.onmessage = changed;
    socket.onclose = () => {
      if (!over) setTimeout(open, 1000);
    };
  };
  open();
  return () => {
    over = true;
    socket?.close();
  };
}
