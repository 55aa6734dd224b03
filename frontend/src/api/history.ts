/** The history of a piece: its steps, their pictures, names and copies, and what differs from them. */
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { turns } from '../controls/turns';
import {
  answered,
  api,
  askAgain,
  type ComparedSteps,
  type History,
  type PieceState,
  pauseBefore,
} from './client';
import { CARDS } from './pieces';

const step = (piece_id: string, id: number) => ({ params: { path: { piece_id, step: id } } });

/** The line of steps, newest first, page by page. */
export function useHistory(id: string, revision: number) {
  return useInfiniteQuery({
    queryKey: ['history', id, revision],
    queryFn: ({ pageParam }) =>
      answered<History>(
        api.GET('/api/pieces/{piece_id}/history', {
          params: { path: { piece_id: id }, query: pageParam === null ? {} : { below: pageParam } },
        }),
      ),
    initialPageParam: null as number | null,
    getNextPageParam: (last) => {
      const oldest = last.steps.at(-1);
      return oldest && oldest.number > 1 ? oldest.number : undefined;
    },
    placeholderData: (last) => last,
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

const inTurn = turns();

/** The address of the picture of what a step left; null until it is drawn, or where that cannot be. */
export function useStepPicture(id: string, of: number, wanted: boolean): string | null {
  const picture = useQuery({
    queryKey: ['step picture', of],
    // One after the other: the server draws what was never looked at, and the page has other things to ask it.
    queryFn: ({ signal }) =>
      inTurn(async () => {
        signal.throwIfAborted();
        const address = `/api/pieces/${id}/history/${of}/picture`;
        const response = await fetch(address, { signal });
        if (!response.ok) return null;
        await response.blob();
        return address;
      }),
    enabled: wanted,
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return picture.data ?? null;
}

/** What the piece has now, or had at a step `later`, that it had not at another; and the skins of those steps. */
export function useComparedSteps(id: string, revision: number, of: number | null, later: number | null) {
  return useQuery({
    queryKey: ['step compared', id, later === null ? revision : 'both', of, later],
    queryFn: () =>
      answered<ComparedSteps>(
        api.GET('/api/pieces/{piece_id}/history/{step}/compare', {
          params: { path: { piece_id: id, step: of as number }, query: later === null ? {} : { later } },
        }),
      ),
    enabled: of !== null,
    placeholderData: (last) => (of === null ? undefined : last),
    retry: askAgain,
    retryDelay: pauseBefore,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

export function useHistoryActions(id: string) {
  const client = useQueryClient();
  return {
    name: useMutation({
      mutationFn: ({ of, name }: { of: number; name: string | null }) =>
        answered<void>(
          api.PUT('/api/pieces/{piece_id}/history/{step}/version', { ...step(id, of), body: { name } }),
        ),
      onSuccess: () => client.invalidateQueries({ queryKey: ['history', id] }),
    }),
    copy: useMutation({
      mutationFn: ({ of, name }: { of: number; name: string }) =>
        answered<PieceState>(
          api.POST('/api/pieces/{piece_id}/history/{step}/copy', { ...step(id, of), body: { name } }),
        ),
      onSuccess: () => client.invalidateQueries({ queryKey: [CARDS] }),
    }),
  };
}
