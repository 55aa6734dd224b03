/** A piece that cannot be read: said so, with every way there is to get at it. */
import { useQueryClient } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import type { UnreadablePiece } from '../api/client';
import { pieceKey, usePieceActions } from '../api/pieces';
import { plural } from './format';

export function Unreadable({ piece }: { piece: UnreadablePiece }) {
  const actions = usePieceActions();
  const client = useQueryClient();
  const navigate = useNavigate();
  const back = async (way: 'undo' | 'go-back') => {
    // Where it can still not be read, the answer is a refusal that says so.
    await actions.goBack.mutateAsync({ id: piece.id, revision: piece.revision, way }).catch(() => undefined);
    await client.resetQueries({ queryKey: pieceKey(piece.id) });
  };
  const putAway = async () => {
    await actions.bin.mutateAsync(piece.id);
    navigate('/');
  };
  const steps = piece.steps_back;
  return (
    <>
      <h1>{piece.name} cannot be read</h1>
      <p>{piece.why}</p>
      <p className="quiet">
        Nothing is lost: it lies here as it was kept, with all its steps, and no other piece is touched.
        {steps === null && ' None of its earlier states can be read either.'}
      </p>
      <div className="buttons justify-content-center">
        {steps !== null && (
          <button type="button" className="plain go" onClick={() => void back('go-back')}>
            Go back to the last state that can be read ({plural(steps, 'step')})
          </button>
        )}
        {piece.undo && (
          <button type="button" className="plain" onClick={() => void back('undo')}>
            Undo one step: {piece.undo}
          </button>
        )}
        <a className="plain" href={`/api/pieces/${piece.id}/export?format=clay.json`} download>
          Download it as it is
        </a>
        <button type="button" className="plain" onClick={() => void putAway().catch(() => undefined)}>
          Put it into the bin
        </button>
        <button type="button" className="plain" onClick={() => navigate('/')}>
          Back to the pieces
        </button>
      </div>
      {actions.bin.error && <p className="text-danger">{actions.bin.error.message}</p>}
    </>
  );
}
