/** How far a job is, and stopping it. */
import type { Job } from '../api/client';
import { cancelJob } from '../api/jobs';
import { STATE_WORDS, stepWord } from './words';

export function JobBar({ job }: { job: Job }) {
  const share = Math.round(100 * job.progress);
  return (
    <div className="job-bar">
      <progress max={100} value={share} aria-label={`${job.name}: ${share}%`} />
      <div className="d-flex justify-content-between align-items-center mt-1">
        <span className="quiet">
          {job.state === 'running' ? `${stepWord(job.step)} · ${share}%` : STATE_WORDS[job.state]}
        </span>
        <button type="button" className="plain small" onClick={() => void cancelJob(job.id)}>
          Stop
        </button>
      </div>
    </div>
  );
}
