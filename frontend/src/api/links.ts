/** Links to a read-only page of a piece, and what such a page shows. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answered, api, askAgain, pauseBefore, type ShownPiece } from './client';
import type { components } from './generated';

type LinkAnswer = components['schemas']['LinkAnswer'];

const of = (piece_id: string) => ({ params: { path: { piece_id } } });

/** The address of the piece's page, if it has one; and what gives and withdraws it. */
export function useLink(id: string) {
  const client = useQueryClient();
  const key = ['link', id];
  const found = useQuery({
    queryKey: key,
    queryFn: () => answered<LinkAnswer>(api.GET('/api/pieces/{piece_id}/link', of(id))),
    retry: askAgain,
    retryDelay: pauseBefore,
  });
  const anew = { onSuccess: () => client.invalidateQueries({ queryKey: key }) };
  const { link, at } = found.data ?? { link: null, at: null };
  return {
    address: link && `${at ?? window.location.origin}/look/${link}`,
    error: found.error,
    give: useMutation({
      mutationFn: () => answered<LinkAnswer>(api.PUT('/api/pieces/{piece_id}/link', of(id))),
      ...anew,
    }),
    withdraw: useMutation({
      mutationFn: () => answered<void>(api.DELETE('/api/pieces/{piece_id}/link', of(id))),
      ...anew,
    }),
  };
}

/** Milliseconds between two looks at whether the piece has changed, and at whether it is made by now. */
const AGAIN = { made: 5_000, waiting: 700 };

export function useShownPiece(link: string) {
  return useQuery({
    queryKey: ['look', link],
    queryFn: () => answered<ShownPiece>(api.GET('/api/look/{link}', { params: { path: { link } } })),
    retry: askAgain,
    retryDelay: pauseBefore,
    refetchInterval: ({ state }) => {
      if (state.error) return false;
      return state.data?.sound == null && !state.data?.problem ? AGAIN.waiting : AGAIN.made;
    },
  });
}
