/** What mending would come to, worked out beforehand. */
import type { Job } from '../api/client';
import type { Mended } from '../api/jobs';
import { plural, short, volume } from '../controls/format';
import type { Known } from '../controls/tree';
import { stepWord } from '../jobs/words';

type Props = {
  /** The job that works it out, if any. */
  trying: Job | undefined;
  tried: Record<string, Mended> | null;
  /** Asks for it, where it is not done at once. */
  ask: (() => void) | null;
  known: Map<string, Known>;
};

export function Outlook({ trying, tried, ask, known }: Props) {
  if (ask)
    return (
      <p className="mt-2 mb-0">
        <button type="button" className="plain small" onClick={ask}>
          Try it out first
        </button>{' '}
        <span className="quiet">it is large, and takes a while</span>
      </p>
    );
  if (trying?.state === 'failed') return <p className="text-danger mt-2 mb-0">{trying.error}</p>;
  if (!tried)
    return (
      <p className="quiet mt-2 mb-0">
        Working out what this would do …
        {trying?.state === 'running' &&
          ` ${stepWord(trying.step).toLowerCase()}, ${Math.round(100 * trying.progress)}%`}
      </p>
    );
  const all = Object.entries(tried);
  // Of many, only those of which there is more to say.
  const told =
    all.length <= MOST_TOLD
      ? all
      : all.filter(([, { report }]) => report.proposal || !report.manifold || report.bodies > 1);
  return (
    <div className="outlook" data-testid="outlook">
      {told.length < all.length && (
        <p>
          <b>{all.length - told.length} closed</b>, one body each.
        </p>
      )}
      {told.map(([part, { report }]) => (
        <p key={part}>
          {all.length > 1 && <b>{known.get(part)?.part.name}: </b>}
          {report.proposal ? (
            `${report.proposal.why}. A wall of ${short(report.proposal.wall_mm, 2)} mm would do.`
          ) : (
            <>
              <b>{report.manifold ? 'Closed' : 'Still not closed'}</b>,{' '}
              {plural(report.bodies, 'body', 'bodies')}, {volume(report.volume_mm3)}
              {report.typical_deviation_mm !== null && moves(report.typical_deviation_mm)}.
            </>
          )}
        </p>
      ))}
    </div>
  );
}

const MOST_TOLD = 3;

const moves = (mm: number): string =>
  mm < 0.0005 ? '; the surface stays where it is' : `; the surface moves ${short(mm, 3)} mm on average`;
