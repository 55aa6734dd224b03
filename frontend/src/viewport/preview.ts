/** Seeing where an adjustment would carry parts, before it is made. */
import { type Adjust, Refused } from '../api/client';
import type { Work } from '../api/work';
import { useEditor } from '../controls/editor';
import { matrixOf } from './meshes';

let newest = 0;

/** Shows it, or why it cannot be made; an answer that comes after `endPreview` or another question is not shown. */
export async function showPreview(work: Work, adjust: Adjust, said: string): Promise<boolean> {
  newest += 1;
  const mine = newest;
  const { setDrag } = useEditor.getState();
  try {
    const moves = await work.preview(adjust);
    if (mine !== newest) return false;
    const carried = new Map(moves.map(({ id, matrix }) => [id, matrixOf(matrix)]));
    setDrag({ carried, said, edit: null, snaps: [] });
    return true;
  } catch (error) {
    if (!(error instanceof Refused) || mine !== newest) return false;
    setDrag({ carried: new Map(), said: error.message, edit: null, snaps: [] });
    return true;
  }
}

export function endPreview() {
  newest += 1;
  useEditor.getState().setDrag(null);
}
