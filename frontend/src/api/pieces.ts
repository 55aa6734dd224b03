/** Server data of pieces, by TanStack Query. */

import { type QueryClient, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import {
  answered,
  api,
  askAgain,
  type Backdrop,
  type ChangeInfo,
  type CopiesInfo,
  type Count,
  type JobKind,
  type Marks,
  type MeshFormat,
  type Needs,
  type PieceInShort,
  type PieceState,
  type Preset,
  type PrimitiveInfo,
  pauseBefore,
  rawBody,
} from './client';

export const pieceKey = (id: string) => ['piece', id] as const;
export const CARDS = 'cards';

export function usePieceCards(binned: boolean) {
  return useQuery({
    queryKey: [CARDS, binned],
    queryFn: () => answered<PieceInShort[]>(api.GET('/api/pieces', { params: { query: { binned } } })),
    retry: askAgain,
    retryDelay: pauseBefore,
  });
}

export function usePiece(id: string) {
  const client = useQueryClient();
  return useQuery({
    queryKey: pieceKey(id),
    queryFn: async () =>
      newer(
        await answered<PieceState>(api.GET('/api/pieces/{piece_id}', { params: { path: { piece_id: id } } })),
        client.getQueryData<PieceState>(pieceKey(id)),
      ),
    retry: askAgain,
    retryDelay: pauseBefore,
    staleTime: Number.POSITIVE_INFINITY,
    // The socket tells when it is made; this is for when it is down.
    refetchInterval: (query) => (query.state.data?.making ? 3000 : false),
  });
}

/** Whether what is shown is this state, and not counted yet. */
const uncounted = ({ scene, making, problem }: PieceState) =>
  scene !== null && !making && !problem && (scene.soundness === null || scene.result === null);

/** Adds what comes of counting a large piece, whose soundness is not known yet, to its state. */
export function useCount(state: PieceState | undefined) {
  const client = useQueryClient();
  const id = state?.id ?? '';
  const revision = state?.revision;
  const counted = useQuery({
    queryKey: ['count', id, revision],
    queryFn: () =>
      answered<Count>(api.GET('/api/pieces/{piece_id}/count', { params: { path: { piece_id: id } } })),
    enabled: state !== undefined && uncounted(state),
    retry: askAgain,
    retryDelay: pauseBefore,
    staleTime: Number.POSITIVE_INFINITY,
    // As above.
    refetchInterval: (query) => (query.state.data?.soundness ? false : 3000),
  }).data;
  useEffect(() => {
    if (!counted?.result || !counted.soundness) return;
    const { revision: of, result, soundness } = counted;
    client.setQueryData<PieceState>(pieceKey(id), (now) =>
      now?.scene && now.revision === of
        ? {
            ...now,
            scene: { ...now.scene, result, patch: null, soundness },
          }
        : now,
    );
  }, [client, id, counted]);
}

/** What the server can do by kinds, which stays while it runs. */
const useCatalogue = <Kinds>(name: string, ask: () => Promise<Kinds>) =>
  useQuery({ queryKey: ['catalogue', name], queryFn: ask, staleTime: Number.POSITIVE_INFINITY });

export const usePrimitives = () =>
  useCatalogue('primitives', () => answered<PrimitiveInfo[]>(api.GET('/api/primitives')));

export const usePresets = () => useCatalogue('presets', () => answered<Preset[]>(api.GET('/api/presets')));

export const useChanges = () =>
  useCatalogue('changes', () => answered<ChangeInfo[]>(api.GET('/api/changes')));

export const useCopies = () => useCatalogue('copies', () => answered<CopiesInfo[]>(api.GET('/api/copies')));

export const useJobKinds = () =>
  useCatalogue('job kinds', () => answered<JobKind[]>(api.GET('/api/jobs/kinds')));

export const useFormats = () =>
  useCatalogue('formats', () => answered<MeshFormat[]>(api.GET('/api/formats')));

export function useNeeds(state: PieceState | undefined) {
  const id = state?.id ?? '';
  return useQuery({
    queryKey: ['needs', id, state?.revision],
    queryFn: () =>
      answered<Needs>(api.GET('/api/pieces/{piece_id}/needs', { params: { path: { piece_id: id } } })),
    enabled: state !== undefined && !state.making && !state.problem,
    retry: askAgain,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** What stands around a drawn part, as rings in its drawing's coordinates. */
export function useBackdrop({ id, revision, making, problem }: PieceState, part: string) {
  return useQuery({
    queryKey: ['around', id, part, revision],
    queryFn: () =>
      answered<Backdrop>(
        api.GET('/api/drawings/around/{piece_id}/{part_id}', {
          params: { path: { piece_id: id, part_id: part } },
        }),
      ),
    enabled: !making && !problem,
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  }).data?.rings;
}

const PAUSE_MS = 700;

/** How parts meet: asked for when the hand rests, so that it is never in the way, and again until all is compared. */
export function useMarks({ id, revision: newest, making, problem }: PieceState) {
  const [revision, setRevision] = useState(newest);
  useEffect(() => {
    const pause = setTimeout(() => setRevision(newest), PAUSE_MS);
    return () => clearTimeout(pause);
  }, [newest]);
  return useQuery({
    queryKey: ['marks', id, revision],
    queryFn: () =>
      answered<Marks>(api.GET('/api/pieces/{piece_id}/marks', { params: { path: { piece_id: id } } })),
    enabled: !making && !problem,
    refetchInterval: (query) => (query.state.data?.complete === false ? 150 : false),
    placeholderData: (last) => last,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}

/** Keeps an answer as the newest state of its piece, unless a newer one is there. */
export function keepState(client: QueryClient, state: PieceState) {
  client.setQueryData<PieceState>(pieceKey(state.id), (old) => newer(state, old));
}

/** An answer that was under way while a step was made is older than what the step's own answer said. */
const newer = (state: PieceState, known: PieceState | undefined): PieceState =>
  known && known.revision > state.revision ? known : state;

/** What can be done with whole pieces; each refreshes the cards. */
export function usePieceActions() {
  const client = useQueryClient();
  const onSuccess = () => client.invalidateQueries({ queryKey: [CARDS] });
  const one = (id: string) => ({ params: { path: { piece_id: id } } });
  return {
    create: useMutation({
      mutationFn: (name: string) => answered<PieceState>(api.POST('/api/pieces', { body: { name } })),
      onSuccess,
    }),
    open: useMutation({
      mutationFn: (file: Blob) => answered<PieceState>(api.POST('/api/pieces/open', rawBody(file))),
      onSuccess,
    }),
    duplicate: useMutation({
      mutationFn: (id: string) => answered<PieceState>(api.POST('/api/pieces/{piece_id}/duplicate', one(id))),
      onSuccess,
    }),
    bin: useMutation({
      mutationFn: (id: string) => answered<void>(api.DELETE('/api/pieces/{piece_id}', one(id))),
      onSuccess,
    }),
    restore: useMutation({
      mutationFn: (id: string) => answered<void>(api.POST('/api/pieces/{piece_id}/restore', one(id))),
      onSuccess,
    }),
    goBack: useMutation({
      mutationFn: ({ id, revision, way }: { id: string; revision: number; way: 'undo' | 'go-back' }) =>
        answered<PieceState>(
          api.POST(`/api/pieces/{piece_id}/${way}`, { ...one(id), body: { base_revision: revision } }),
        ),
      onSettled: onSuccess,
    }),
    emptyBin: useMutation({
      mutationFn: () => answered<number>(api.POST('/api/pieces/bin/empty')),
      onSuccess,
    }),
    rename: useMutation({
      mutationFn: ({ id, revision, name }: { id: string; revision: number; name: string }) =>
        answered<PieceState>(
          api.POST('/api/pieces/{piece_id}/edits', {
            ...one(id),
            body: { base_revision: revision, request_id: newRequestId(), edit: { kind: 'set_piece', name } },
          }),
        ),
      onSuccess,
    }),
  };
}

export function newRequestId(): string {
  return crypto.randomUUID();
}
