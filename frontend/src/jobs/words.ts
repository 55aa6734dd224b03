/** What jobs and their steps are called. */
import type { Job } from '../api/client';
import words from '../api/words.json';
import { short } from '../controls/format';

const STEP_WORDS: Record<string, string> = words.steps;

export const stepWord = (step: string) =>
  STEP_WORDS[step] ?? (step ? step[0]?.toUpperCase() + step.slice(1) : 'Waiting');

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
  return ` in ${short(seconds, 1)} s${job.outcome && `: ${job.outcome}`}`;
}
