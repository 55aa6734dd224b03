/** Files on their way in: sent one after the other, read by jobs, their unit asked where they have none, put on the wheel. */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { type Job, type LengthUnit, said } from '../api/client';
import { ended, leaveMesh, lookAgain, putMesh, sendMesh } from '../api/jobs';
import { keepState } from '../api/pieces';
import { takeOver } from '../controls/meshFiles';
import type { Open } from '../controls/PieceFrame';

/** What reading a file told. */
export type Read = { unit: LengthUnit | null; size: [number, number, number]; triangles: number };

/** share: how much has been sent, 0 to 1; job: that reads it, once it is sent; putting: it becomes a part just now. */
export type Coming = {
  key: number;
  name: string;
  share: number;
  stop: (() => void) | null;
  job: string | null;
  wrong: string | null;
  putting: boolean;
};

export function useBringIn(open: Open, jobs: Job[]) {
  const client = useQueryClient();
  const [coming, setComing] = useState<Coming[]>([]);
  // One at a time, so that whatever else the page asks for is not held up.
  const sending = useRef<Promise<void>>(Promise.resolve());
  const number = useRef(0);
  const gone = useRef(new Set<number>());
  /** Jobs that were taken up, and need not be again. */
  const seen = useRef(new Set<string>());
  const change = (key: number, to: Partial<Coming>) =>
    setComing((all) => all.map((c) => (c.key === key ? { ...c, ...to } : c)));
  const remove = (key: number) => {
    gone.current.add(key);
    setComing((all) => all.filter((c) => c.key !== key));
  };
  const jobOf = (c: Coming) => jobs.find((j) => j.id === c.job) ?? null;
  const readOf = (c: Coming) => {
    const job = jobOf(c);
    return job?.state === 'done' ? (job.result as unknown as Read) : null;
  };

  const send = async (key: number, file: File) => {
    if (gone.current.has(key)) return;
    const { sent, stop } = sendMesh(open.id, file, (share) => change(key, { share }));
    change(key, { stop });
    try {
      const { id } = await sent;
      seen.current.add(id);
      change(key, { job: id, stop: null });
      await lookAgain(client);
    } catch (error) {
      change(key, { wrong: said(error), stop: null });
    }
  };
  const bring = (files: Iterable<File>) => {
    for (const file of files) {
      const key = number.current++;
      const { name } = file;
      setComing((all) => [
        ...all.filter((c) => !c.wrong && jobOf(c)?.state !== 'failed'),
        { key, name, share: 0, stop: null, job: null, wrong: null, putting: false },
      ]);
      sending.current = sending.current.then(() => send(key, file));
    }
  };
  /** One after the other, so that each finds a place beside the one before. */
  const put = async (which: Coming[], unit: LengthUnit | null) => {
    for (const c of which) change(c.key, { putting: true });
    for (const { key, job } of which) {
      try {
        if (job) keepState(client, await putMesh(open.id, job, open.state.revision, unit));
        remove(key);
      } catch (error) {
        change(key, { wrong: said(error), putting: false });
      }
    }
  };

  // biome-ignore lint/correctness/useExhaustiveDependencies: what another page handed over, once
  useEffect(() => bring(takeOver()), []);
  // A file that knows its unit needs no question.
  const known = coming.find((c) => !c.wrong && !c.putting && readOf(c)?.unit);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every file that has been read
  useEffect(() => {
    if (known) void put([known], null);
  }, [known?.key]);
  // Reading that went on while the page was away; or ended, and its question was not answered.
  const reading = jobs.find(
    (j) =>
      j.kind === 'bring_in' &&
      (!ended(j) || (j.state === 'done' && !j.settled)) &&
      !seen.current.has(j.id) &&
      !coming.some((c) => c.job === j.id || !c.job),
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for every such job
  useEffect(() => {
    if (!reading) return;
    seen.current.add(reading.id);
    const key = number.current++;
    const { name, id: job } = reading;
    setComing((all) => [...all, { key, name, share: 1, stop: null, job, wrong: null, putting: false }]);
  }, [reading?.id]);

  /** Files that were read are not wanted after all. */
  const leave = async (which: Coming[]) => {
    for (const { key, job } of which) {
      remove(key);
      if (job) await leaveMesh(client, open.id, job).catch(() => undefined);
    }
  };

  return { coming, bring, put, leave, remove, jobOf, readOf };
}
