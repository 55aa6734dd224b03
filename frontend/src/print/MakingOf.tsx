/** The making-of sheet: how the piece is built and printed, so that another maker, or a class, can do the same. */
import { ended } from '../api/jobs';
import { useMakingOf } from '../api/printing';
import type { Open } from '../controls/PieceFrame';
import { JobBar } from '../jobs/JobBar';

export function MakingOf({ open }: { open: Open }) {
  const { ask, waiting, error, job } = useMakingOf(open.id, open.state.revision);
  const done = job?.state === 'done' ? job : undefined;
  return (
    <div className="section">
      <h3>Making-of sheet</h3>
      <p className="quiet mb-2">
        Every step with a picture, sizes and glazes, and how to print it: for another maker.
      </p>
      {!done && (
        <button
          type="button"
          className="plain"
          disabled={waiting || Boolean(job && !ended(job))}
          onClick={() => ask()}
        >
          Write the sheet
        </button>
      )}
      {error && <p className="text-danger mb-0">{error.message}</p>}
      {job && !ended(job) && <JobBar job={job} />}
      {job?.state === 'failed' && <p className="text-danger mb-0">{job.error}</p>}
      {done && (
        <div className="d-flex gap-2">
          <a className="plain" href={`/api/jobs/${done.id}/making-of.pdf`} download>
            Take out the PDF
          </a>
          <a className="plain" href={`/api/jobs/${done.id}/making-of.html`} target="_blank" rel="noreferrer">
            Read it as a page
          </a>
        </div>
      )}
    </div>
  );
}
