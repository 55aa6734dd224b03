/** The making-of sheet: how the piece is built and printed, so that another maker, or a class, can do the same. */
import { useMakingOf } from '../api/printing';
import type { Open } from '../controls/PieceFrame';
import { AskedFor } from './AskedFor';

export function MakingOf({ open }: { open: Open }) {
  const asked = useMakingOf(open.id, open.state.revision);
  return (
    <div className="section">
      <h3>Making-of sheet</h3>
      <p className="quiet mb-2">
        Every step with a picture, sizes and glazes, and how to print it: for another maker.
      </p>
      <AskedFor asked={asked} word="Write the sheet">
        {(job) => (
          <>
            <a className="plain" href={`/api/jobs/${job}/making-of.pdf`} download>
              Take out the PDF
            </a>
            <a className="plain" href={`/api/jobs/${job}/making-of.html`} target="_blank" rel="noreferrer">
              Read it as a page
            </a>
          </>
        )}
      </AskedFor>
    </div>
  );
}
