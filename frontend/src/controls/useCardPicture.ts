/**
 * The address of a card's picture; one that is missing or old is drawn first, one card after the other. none: it could
 * not be drawn.
 */
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { answered, api, type PieceInShort, type PieceState } from '../api/client';
import { keepState } from '../api/pieces';
import { knownParts } from './tree';
import { turns } from './turns';
import { handIn } from './usePicture';

const inTurn = turns();

export function useCardPicture(card: PieceInShort): { address: string | null; none: boolean } {
  const client = useQueryClient();
  const [drawn, setDrawn] = useState(card.thumbnail_revision);
  const [none, setNone] = useState(false);
  const current = drawn === card.revision;
  useEffect(() => {
    if (current || card.parts === 0 || card.problem) return;
    let wanted = true;
    inTurn(async () => {
      if (!wanted) return;
      const state = await made(card.id, () => wanted);
      if (!state) {
        if (wanted) setNone(true);
        return;
      }
      keepState(client, state);
      const kept = await handIn({ id: card.id, state, known: knownParts(state.piece) });
      if (wanted && kept) setDrawn(state.revision);
      else if (wanted) setNone(true);
      await client.invalidateQueries({ queryKey: ['cards'] });
    }).catch(() => undefined);
    return () => {
      wanted = false;
    };
  }, [current, card.id, card.parts, card.problem, client]);
  return { address: drawn === null ? null : `/api/pieces/${card.id}/thumbnail?revision=${drawn}`, none };
}

const LOOK_AGAIN_MS = 700;
const PATIENCE_MS = 60_000;

/** A piece once it is made; null when it cannot be, takes too long for a picture, or is not wanted any more. */
async function made(id: string, wanted: () => boolean): Promise<PieceState | null> {
  for (const begun = Date.now(); wanted() && Date.now() - begun < PATIENCE_MS; ) {
    const state = await answered<PieceState>(
      api.GET('/api/pieces/{piece_id}', { params: { path: { piece_id: id } } }),
    );
    if (!state.making) return state.problem ? null : state;
    await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS));
  }
  return null;
}
