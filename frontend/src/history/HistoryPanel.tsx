/** The history of a piece: every step in words with its picture, back to any, and the ways that part from them. */
import { useEffect, useState } from 'react';
import type { HistoryStep } from '../api/client';
import { useHistory } from '../api/history';
import { plural } from '../controls/format';
import type { Open } from '../controls/PieceFrame';
import { Compared } from './Compared';
import { StepRow } from './StepRow';
import { toggleHistory, useHistoryShown } from './shown';
import { WayRow } from './WayRow';

export function HistoryPanel({ open }: { open: Open }) {
  const { shown, compared, later } = useHistoryShown();
  if (!shown) return null;
  return (
    <aside className="history" aria-label="History">
      <header>
        <h2>History</h2>
        <button type="button" className="icon-button" aria-label="Close the history" onClick={toggleHistory}>
          ×
        </button>
      </header>
      <Steps open={open} />
      {compared && <Compared open={open} step={compared} later={later} />}
    </aside>
  );
}

function Steps({ open }: { open: Open }) {
  const [named, setNamed] = useState(false);
  const history = useHistory(open.id, open.state.revision);
  const { refetch } = history;
  // Another window may have named something.
  useEffect(() => void refetch(), [refetch]);
  const pages = history.data?.pages;
  const first = pages?.[0];
  if (!pages || !first) {
    return <p className="quiet">{history.error ? history.error.message : 'Looking back …'}</p>;
  }
  const steps = pages.flatMap((page) => page.steps);
  const ways = pages.flatMap((page) => page.ways);
  const from = (after: number) =>
    ways.filter((way) => way.after === after).map((way) => <WayRow key={way.end.id} open={open} way={way} />);
  const row = (step: HistoryStep, later: boolean) => (
    <StepRow key={step.id} open={open} step={step} here={step.id === first.here} later={later} />
  );
  const atBeginning = steps.at(-1)?.number === 1 || steps.length === 0;
  return (
    <>
      <fieldset className="switch" aria-label="Which steps">
        <button type="button" aria-pressed={!named} onClick={() => setNamed(false)}>
          All {first.length.toLocaleString('en')}
        </button>
        <button type="button" aria-pressed={named} onClick={() => setNamed(true)}>
          Named {first.versions.length}
        </button>
      </fieldset>
      <ol className="steps">
        {named ? (
          first.versions.map((step) => row(step, false))
        ) : (
          <>
            {steps.map((step) => [from(step.id), row(step, step.number > first.position)])}
            {atBeginning && from(0)}
            {atBeginning && (
              <li className="step">
                <button
                  type="button"
                  className="go-there"
                  aria-current={first.here === 0 ? 'step' : undefined}
                  onClick={() => void open.work.goTo(0)}
                >
                  <span className="picture" />
                  <span>
                    The beginning
                    {first.here === 0 && <small>the piece stands here</small>}
                  </span>
                </button>
              </li>
            )}
          </>
        )}
      </ol>
      {named && first.versions.length === 0 && (
        <p className="quiet">
          Nothing is named yet. Name a step by its ⋯ to find it again, whatever comes after.
        </p>
      )}
      {!named && history.hasNextPage && (
        <button
          type="button"
          className="plain small"
          disabled={history.isFetchingNextPage}
          onClick={() => void history.fetchNextPage()}
        >
          {plural((steps.at(-1)?.number ?? 1) - 1, 'earlier step')}
        </button>
      )}
    </>
  );
}
