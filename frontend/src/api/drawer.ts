/** The maker's parts drawer on the server. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import {
  answered,
  api,
  askAgain,
  type CopyNote,
  type Followed,
  type KeptCard,
  type KeptFields,
  type PieceState,
  pauseBefore,
  rawBody,
} from './client';
import { CARDS, newRequestId } from './pieces';

/** Beside the cards of pieces: what refreshes those refreshes these. */
const DRAWER = [CARDS, 'drawer'] as const;
const COPIES = 'copies of the drawer';

export function useDrawer() {
  return useQuery({
    queryKey: DRAWER,
    queryFn: () => answered<KeptCard[]>(api.GET('/api/drawer')),
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

/** For when something was put into it from elsewhere. */
export function useLookIntoDrawer() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: DRAWER });
}

/** What the drawer knows of the parts of a piece that were taken out of it. */
export function useCopyNotes({ id, revision, piece }: PieceState, some: boolean) {
  return useQuery({
    queryKey: [COPIES, id, revision, piece.parts.length],
    queryFn: () =>
      answered<CopyNote[]>(api.GET('/api/pieces/{piece_id}/drawer', { params: { path: { piece_id: id } } })),
    enabled: some,
    placeholderData: (last) => last,
    retry: askAgain,
    retryDelay: pauseBefore,
  }).data;
}

/** What can be done with what lies in the drawer; each looks at it anew. */
export function useDrawerActions() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: [CARDS] });
  const kept = (kept_id: string) => ({ params: { path: { kept_id } } });
  return {
    set: useMutation({
      mutationFn: ({ id, fields }: { id: string; fields: KeptFields }) =>
        answered<KeptCard>(
          api.PUT('/api/drawer/{kept_id}', { ...kept(id), body: { request_id: newRequestId(), fields } }),
        ),
      onSuccess,
    }),
    takeIn: useMutation({
      mutationFn: (file: Blob) => answered<KeptCard>(api.POST('/api/drawer/take-in', rawBody(file))),
      onSuccess,
    }),
    follow: useMutation({
      mutationFn: ({ id, pieces }: { id: string; pieces: string[] }) =>
        answered<Followed[]>(
          api.POST('/api/drawer/{kept_id}/follow', {
            ...kept(id),
            body: { request_id: newRequestId(), pieces },
          }),
        ),
      onSuccess,
    }),
  };
}
