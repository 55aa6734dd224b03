/** What jobs and their steps are called. */
import type { Job } from '../api/client';
import type { Mended, Told } from '../api/jobs';
import words from '../api/words.json';
import { plural, short } from '../controls/format';

const STEP_WORDS: Record<string, string> = words.steps;

export const stepWord = (step: string) =>
  STEP_WORDS[step] ?? (step ? step[0]?.toUpperCase() + step.slice(1) : 'Waiting');

export const KIND_WORDS: Record<Job['kind'], string> = {
  bring_in: 'Bring in',
  look_over: 'Look over',
  mend: 'Mend',
  rehearse: 'Try out',
};

export const STATE_WORDS: Record<Job['state'], string> = {
  waiting: 'waits its turn',
  running: 'under way',
  done: 'done',
  failed: 'could not be done',
  cancelled: 'stopped',
};

/** How long a job took, and what came of it. */
export function outcome(job: Job): string {
  if (job.state !== 'done' || !job.started_at || !job.ended_at) return '';
  const seconds = (Date.parse(job.ended_at) - Date.parse(job.started_at)) / 1000;
  const meshes =
    job.kind === 'mend'
      ? Object.values(job.result as Record<string, Mended>).map((m) => m.report)
      : [job.result as unknown as Told];
  const said = meshes.map(
    (m) =>
      `${m.manifold ? 'closed' : 'not closed'}, ${plural(m.bodies, 'body', 'bodies')}, ${plural(m.triangles, 'triangle')}`,
  );
  return ` in ${short(seconds, 1)} s: ${said.join('; ')}`;
}
