/** A button that asks for a job, how far that is, and what came of it once it is done. */
import type { ReactNode } from 'react';
import { ended } from '../api/jobs';
import type { AskedJob } from '../api/printing';
import { JobBar } from '../jobs/JobBar';

type Props = { asked: AskedJob; word: string; children: (job: string) => ReactNode };

export function AskedFor({ asked: { ask, waiting, error, job }, word, children }: Props) {
  return (
    <>
      {job?.state !== 'done' && (
        <button
          type="button"
          className="plain"
          disabled={waiting || Boolean(job && !ended(job))}
          onClick={() => ask()}
        >
          {word}
        </button>
      )}
      {error && <p className="text-danger mb-0">{error.message}</p>}
      {job && !ended(job) && <JobBar job={job} />}
      {job?.state === 'failed' && <p className="text-danger mb-0">{job.error}</p>}
      {job?.state === 'done' && <div className="d-flex gap-2">{children(job.id)}</div>}
    </>
  );
}
