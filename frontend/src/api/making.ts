/** How far a piece is that is still being made: told over its socket, stopped, tried again. */
import { type QueryClient, type QueryKey, useQueryClient } from '@tanstack/react-query';
import { useEffect } from 'react';
import { create } from 'zustand';
import { answered, api, type PieceState } from './client';
import { keepState, pieceKey } from './pieces';
import { useWork } from './work';

/** What the server tells of the newest state of a piece. */
type Note = {
  revision: number;
  made: boolean;
  counted: boolean;
  share: number;
  part: string | null;
  /** The newest revision that is kept, whoever made it. */
  kept: number;
};

/** The last note of the piece whose page is open. */
export const useNote = create<{ note: Note | null }>(() => ({ note: null }));

/** What was done to the piece that is open by another window, or a job, until this one does something itself. */
export const useElsewhere = create<{ words: string | null }>(() => ({ words: null }));

/** Listens for what is made and counted of a piece, and asks for it. */
export function useFollowing(id: string) {
  const client = useQueryClient();
  useEffect(() => {
    if (!id) return;
    let socket: WebSocket | null = null;
    let over = false;
    let again: ReturnType<typeof setTimeout> | undefined;
    const open = () => {
      socket = new WebSocket(`ws://${location.host}/api/pieces/${id}/socket`);
      socket.onmessage = ({ data }) => heard(client, id, JSON.parse(data));
      socket.onclose = () => {
        if (!over) again = setTimeout(open, 1500);
      };
    };
    open();
    // What was told while a gesture was on its way is looked at once it is answered.
    const unsubscribe = useWork.subscribe(({ waiting }, before) => {
      if (waiting > before.waiting) useElsewhere.setState({ words: null });
      const { note } = useNote.getState();
      if (note && waiting === 0 && before.waiting > 0) heard(client, id, note);
    });
    return () => {
      over = true;
      unsubscribe();
      clearTimeout(again);
      socket?.close();
      useNote.setState({ note: null });
      useElsewhere.setState({ words: null });
    };
  }, [client, id]);
}

function heard(client: QueryClient, id: string, note: Note) {
  useNote.setState({ note });
  const state = client.getQueryData<PieceState>(pieceKey(id));
  if (!state) return;
  // A newer revision that this page did not make is another window's.
  const behind = Math.max(note.revision, note.kept) > state.revision && useWork.getState().waiting === 0;
  // Whatever this page takes it for: an answer that was made before may have come after a later one.
  const differs = note.revision === state.revision && note.made === (state.making !== null);
  if (behind || differs) void lookAgain(client, id, state);
  if (note.revision === state.revision && note.counted && state.scene?.soundness === null) {
    void askAnew(client, ['count', id, state.revision]);
  }
}

/** Ask for the piece; what another has done to it since is told. */
async function lookAgain(client: QueryClient, id: string, known: PieceState) {
  await client.invalidateQueries({ queryKey: pieceKey(id) });
  const now = client.getQueryData<PieceState>(pieceKey(id));
  if (!now || now.revision <= known.revision || useWork.getState().waiting > 0) return;
  const words = now.undo === known.undo ? null : (now.undo ?? 'back at the beginning');
  if (words) useElsewhere.setState({ words });
}

/** Also where a first answer is on its way, which was made too early and which asking again alone would wait for. */
async function askAnew(client: QueryClient, queryKey: QueryKey) {
  await client.cancelQueries({ queryKey });
  await client.invalidateQueries({ queryKey });
}

const one = (id: string) => ({ params: { path: { piece_id: id } } });

/** Give up what is being made; the step stays. */
export async function stopMaking(client: QueryClient, id: string) {
  await answered<void>(api.POST('/api/pieces/{piece_id}/stop', one(id)));
  await client.invalidateQueries({ queryKey: pieceKey(id) });
}

/** Try once more to make what could not be made. */
export async function makeAgain(client: QueryClient, id: string) {
  const state = await answered<PieceState>(api.POST('/api/pieces/{piece_id}/again', one(id)));
  await client.cancelQueries({ queryKey: pieceKey(id) }); // those were asked before
  keepState(client, state);
}
