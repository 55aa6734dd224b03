/** Takes the card's picture of a piece a moment after it last changed, and hands it in. */
import { useEffect } from 'react';
import { answered, api, rawBody } from '../api/client';
import { takePicture } from '../viewport/picture';
import type { Open } from './PieceFrame';

const QUIET_MS = 5000;

export function usePicture(open: Open | null) {
  useEffect(() => {
    if (!open?.state.scene) return;
    const timer = setTimeout(() => void handIn(open).catch(() => undefined), QUIET_MS);
    return () => clearTimeout(timer);
  }, [open]);
}

/** Draw the piece and keep the picture with its revision; resolves to whether there is one to keep. */
export async function handIn({ id, state, known }: Pick<Open, 'id' | 'state' | 'known'>): Promise<boolean> {
  if (state.making || state.problem) return false; // what is shown is not this state
  const png = state.scene && (await takePicture(state.scene, known));
  if (!png) return false;
  await answered<void>(
    api.PUT('/api/pieces/{piece_id}/thumbnail', {
      params: { path: { piece_id: id }, query: { revision: state.revision } },
      ...rawBody(png, 'image/png'),
    }),
  );
  return true;
}
