/** All stages of a piece, and the one view that they share. */
import { Outlet } from 'react-router';
import { ViewHost } from '../viewport/View';
import { type StageName, Stages } from './stages';

export function PieceRoom({ stages }: { stages: StageName[] }) {
  return (
    <Stages.Provider value={stages}>
      <Outlet />
      <ViewHost />
    </Stages.Provider>
  );
}
