/** All stages of a piece, and the one view that they share. */
import { Outlet } from 'react-router';
import { ViewHost } from '../viewport/View';

export function PieceRoom() {
  return (
    <>
      <Outlet />
      <ViewHost />
    </>
  );
}
