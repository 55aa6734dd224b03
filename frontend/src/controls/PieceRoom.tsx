/** All stages of a piece, and the one view that they share. */
import { Fragment, useEffect } from 'react';
import { Outlet, useParams } from 'react-router';
import { useHistoryShown } from '../history/shown';
import { ViewHost } from '../viewport/View';
import { useEditor } from './editor';
import { type StageName, Stages } from './stages';

export function PieceRoom({ stages }: { stages: StageName[] }) {
  const { id } = useParams();
  // biome-ignore lint/correctness/useExhaustiveDependencies: for every piece once, however often it goes between stages
  useEffect(() => {
    useEditor.getState().set({ look: 'result', surface: 'glazed', section: null });
    useHistoryShown.setState({ shown: false, compared: null, later: null });
  }, [id]);
  return (
    <Stages.Provider value={stages}>
      {/* Another piece begins anew: neither its view nor what was in hand is that of the one before. */}
      <Fragment key={id}>
        <Outlet />
        <ViewHost />
      </Fragment>
    </Stages.Provider>
  );
}
