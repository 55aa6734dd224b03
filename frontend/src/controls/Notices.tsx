/** What the maker should know just now, in a line under the head: waiting, refused, being made, impossible. */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { PieceState } from '../api/client';
import { makeAgain, stopMaking, useNote } from '../api/making';
import { useWork } from '../api/work';
import type { Open } from './PieceFrame';

export function Notices({ open, undo }: { open: Open; undo: () => void }) {
  const { away, waiting, refusal, told, dismiss, giveUp } = useWork();
  const client = useQueryClient();
  const { id, state } = open;
  if (away) {
    return (
      <div className="notice" role="status">
        <b>Waiting for the workshop.</b>
        <span>
          {away} {waiting > 0 && `${waiting === 1 ? 'One step waits' : `${waiting} steps wait`} here.`}
        </span>
        {waiting > 0 && (
          <button type="button" className="plain small" onClick={giveUp}>
            Stop waiting
          </button>
        )}
      </div>
    );
  }
  if (refusal || told) {
    return (
      <div className={`notice ${refusal ? 'bad' : ''}`} role="alert">
        <span>{refusal ?? told}</span>
        <button type="button" className="plain small" onClick={dismiss}>
          All right
        </button>
      </div>
    );
  }
  if (state.problem) {
    return (
      <div className="notice bad" role="alert">
        <b>Kept, but it cannot be made.</b>
        <span>{sayProblem(state.problem, open)} The view shows the piece before it.</span>
        <span className="buttons">
          {state.undo && (
            <button type="button" className="plain small" onClick={undo}>
              Undo: {state.undo}
            </button>
          )}
          <button type="button" className="plain small" onClick={() => void makeAgain(client, id)}>
            Try again
          </button>
        </span>
      </div>
    );
  }
  if (state.making) return <Making open={open} />;
  return <span />;
}

const SHOWN_AFTER_MS = 300;

/** How far the newest state is, once that takes longer than a moment. */
function Making({ open }: { open: Open }) {
  const client = useQueryClient();
  const { note } = useNote();
  const [shown, setShown] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setShown(true), SHOWN_AFTER_MS);
    return () => clearTimeout(timer);
  }, []);
  if (!shown) return <span />;
  const far = note?.revision === open.state.revision ? note : open.state.making;
  const share = Math.round(100 * (far?.share ?? 0));
  const name = far?.part ? open.known.get(far.part)?.part.name : undefined;
  return (
    <div className="notice" role="status">
      <b>Still being made.</b>
      <progress max={100} value={share} aria-label={`The piece is being made: ${share}%`} />
      <span>
        {name ? `${name}, ${share}%` : `${share}%`}. You can go on working; the view shows the piece before
        it.
      </span>
      <button type="button" className="plain small" onClick={() => void stopMaking(client, open.id)}>
        Stop
      </button>
    </div>
  );
}

/** What is wrong, with the name of the part instead of its id. */
function sayProblem({ message, problems }: NonNullable<PieceState['problem']>, open: Open): string {
  const [first] = problems;
  const name = first?.part && open.known.get(first.part)?.part.name;
  const words = name ? `${name}: ${first.message}` : message;
  return /[.!?]$/.test(words) ? words : `${words}.`;
}
